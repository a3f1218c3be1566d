"""Design of a trial: which combination goes into which cell, and what that will tell apart."""

from loam.core.design.forecast import Forecast, forecast
from loam.core.design.lay import Efficiency, Layout, Placed, efficiency, even_deal, lay_out
from loam.core.design.outlook import Outlook, expected_pairs, outlook
from loam.core.design.plan import PanelPlan, Plan, Spreads

__all__ = [
    "Efficiency",
    "Forecast",
    "Layout",
    "Outlook",
    "PanelPlan",
    "Placed",
    "Plan",
    "Spreads",
    "efficiency",
    "even_deal",
    "expected_pairs",
    "forecast",
    "lay_out",
    "outlook",
]
