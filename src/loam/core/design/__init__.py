"""Design of a trial: which combination goes into which cell, and what that will tell apart."""

from loam.core.design.forecast import Forecast, forecast
from loam.core.design.lay import Efficiency, Layout, Placed, lay_out
from loam.core.design.plan import PanelPlan, Plan, Spreads

__all__ = [
    "Efficiency", "Forecast", "Layout", "PanelPlan", "Placed", "Plan", "Spreads", "forecast",
    "lay_out",
]  # fmt: skip
