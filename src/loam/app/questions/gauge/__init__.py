"""How well people read alike: the gauge study."""
