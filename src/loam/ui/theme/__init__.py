"""Colours, type and spacing, from one place."""

from loam.ui.theme.look import Look, dress, look
from loam.ui.theme.tokens import BENCH, LIGHTS_OUT, Tokens

__all__ = ["BENCH", "LIGHTS_OUT", "Look", "Tokens", "dress", "look"]
