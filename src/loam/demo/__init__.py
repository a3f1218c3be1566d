"""The made-up workshop that Loam shows on first acquaintance, with its known truth."""
