"""What a device's faults mean, and what helps, in words."""

from __future__ import annotations

SAID: dict[int, tuple[str, str]] = {
    10: ("did not understand the request", "Ask again."),
    11: ("got a request that was changed on its way", "Check the cable."),
    12: ("does not know this request", "It may be another kind of meter."),
    13: ("does not take this value", "Check what was asked for."),
    20: ("is still warming up", "Wait a minute or two, or read by hand."),
    21: ("is not calibrated", "Read its tile first."),
    22: ("is lifted or tilted", "Set it down flat."),
    23: ("is out of its range", "Read something else, or with another geometry."),
    24: ("cannot read this base", "Steel and aluminium only: plastic needs another gauge."),
    25: ("reads another tile than was named", "Take its own tile, and clean it."),
    30: ("has a low battery", "Charge it; what it reads now may be wrong."),
    40: ("has a fault of its own", "Switch it off and on; read by hand meanwhile."),
}


def fault_words(code: int, text: str = "") -> tuple[str, str]:
    """Return what a fault means and what helps; an unknown one in the device's own words."""
    return SAID.get(code, (f"says {text or f'fault {code}'}", "Read by hand meanwhile."))
