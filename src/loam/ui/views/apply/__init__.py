"""Apply: the car unfolded, its stairs into the clear, its spots and its day."""
