"""What drives a result: pad, compound, machine, passes."""
