"""How bright a colour is (WCAG 2)."""


def luminance(colour):
    """Return the relative luminance of a colour, 0 to 1."""
    c = [x / 12.92 if x <= 0.03928 else ((x + 0.055) / 1.055) ** 2.4 for x in colour.getRgbF()[:3]]
    return 0.2126 * c[0] + 0.7152 * c[1] + 0.0722 * c[2]
