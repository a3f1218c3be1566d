"""Reading a cell: the view, its digits, and what was taken."""
