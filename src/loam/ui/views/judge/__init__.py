"""Judge: the ranking, one combination in detail, what matters, the readings behind a figure."""
