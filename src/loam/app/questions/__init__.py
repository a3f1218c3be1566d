"""The questions of Judge, a folder each: what it finds, says, tabulates, and rests on."""
