"""Days and times of the calendar as text, without a clock."""

from __future__ import annotations

import re


def seconds_of(text: str) -> float:
    """Return a time, like 2026-09-05T14:02:11, as seconds since 1970 without zones; 0 for none.

    Days are counted as in the calendar that goes on backwards (days from civil, Hinnant).

    Examples
    --------
    >>> seconds_of("2026-09-05T14:02:11") - seconds_of("2026-09-04T14:02:10")
    86401.0
    """
    found = re.match(r"(\d{4}-\d{2}-\d{2})[T ](\d{2}):(\d{2})(?::(\d{2}(?:\.\d+)?))?", text, re.A)
    if found is None or not is_date(found.group(1)):
        return 0.0
    year, month, day = (int(part) for part in found.group(1).split("-"))
    year -= month <= 2
    era = year // 400
    of_era = year - era * 400
    of_year = (153 * (month + (-3 if month > 2 else 9)) + 2) // 5 + day - 1
    days = era * 146_097 + of_era * 365 + of_era // 4 - of_era // 100 + of_year - 719_468
    hours, minutes, seconds = (float(part or 0) for part in found.groups()[1:])
    return days * 86_400.0 + hours * 3600.0 + minutes * 60.0 + seconds


def day_after(text: str, days: int) -> str:
    """Return the day so many days after another (civil from days, Hinnant); "" for none.

    Examples
    --------
    >>> day_after("2026-02-27", 2), day_after("2024-02-28", 1), day_after("soon", 1)
    ('2026-03-01', '2024-02-29', '')
    """
    if not is_date(text):
        return ""
    shifted = round(seconds_of(f"{text}T00:00") / 86_400.0) + days + 719_468
    era = shifted // 146_097
    of_era = shifted - era * 146_097
    year_of = (of_era - of_era // 1460 + of_era // 36_524 - of_era // 146_096) // 365
    of_year = of_era - (365 * year_of + year_of // 4 - year_of // 100)
    turn = (5 * of_year + 2) // 153
    day = of_year - (153 * turn + 2) // 5 + 1
    month = turn + (3 if turn < 10 else -9)
    year = year_of + era * 400 + (month <= 2)
    return f"{year:04d}-{month:02d}-{day:02d}"


def minutes_between(early: str, late: str) -> float:
    """Return the minutes from one time to another; 0 where one cannot be read."""
    a, b = seconds_of(early), seconds_of(late)
    return (b - a) / 60.0 if a and b else 0.0


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
