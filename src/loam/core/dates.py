"""Days of the calendar as text, without a clock."""

from __future__ import annotations

import re


def is_date(text: str) -> bool:
    """Tell whether a text is a day of the calendar, as year-month-day.

    Examples
    --------
    >>> is_date("2024-02-29"), is_date("2023-02-29"), is_date("5.9.2026")
    (True, False, False)
    """
    found = re.fullmatch(r"(\d{4})-(\d{2})-(\d{2})", text, re.ASCII)
    if found is None:
        return False
    year, month, day = (int(part) for part in found.groups())
    leap = year % 4 == 0 and (year % 100 != 0 or year % 400 == 0)
    longest = (31, 29 if leap else 28, 31, 30, 31, 30, 31, 31, 30, 31, 30, 31)
    return year >= 1 and 1 <= month <= 12 and 1 <= day <= longest[month - 1]
