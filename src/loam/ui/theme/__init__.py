"""Colours, type and spacing, from one place."""

from loam.ui.theme.look import Look, dress, look
from loam.ui.theme.tokens import BENCH, LIGHTS_OUT, PAPER, Tokens

__all__ = ["BENCH", "LIGHTS_OUT", "PAPER", "Look", "Tokens", "dress", "look"]
