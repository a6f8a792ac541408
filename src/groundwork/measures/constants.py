"""Units that are not of the SI, in those that are: each stands here and nowhere else. Exact by definition (the
international yard and pound agreement of 1959; NIST Handbook 44, appendix C), or rounded from what is, as told."""

INCH = 0.0254
FOOT = 0.3048
SURVEY_FOOT = 1200 / 3937
"""The foot of older US surveys, metres."""
POUND = 0.45359237
POUND_FORCE = POUND * 9.80665
"""In newtons."""
TON = 2000 * POUND
"""The short ton, kg."""
GALLON = 0.003785411784
"""The US gallon of 231 cubic inches, m³."""
CUBIC_YARD = 0.764554857984
POUND_A_CUBIC_FOOT = 16.018463373960142
"""In kg/m³; rounded."""
POUND_PER_SQUARE_INCH = 6894.757293168
"""In pascals, at 9.80665 m/s²; rounded."""

MILE = 1609.344
"""In metres."""
