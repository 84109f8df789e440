"""How many examples the drawn tests ask: few at every run, all of them by hand.

``EXAMPLES=1 make test`` asks all; the share below is what twelve minutes on two cores leave room for.
"""

import os

SHARE = float(os.environ.get("EXAMPLES", "0.3"))


def few(examples: int) -> int:
    """Return so many of the examples as this run asks, at least five."""
    return max(5, round(SHARE * examples))


#: The same under a name that tests with a `few` of their own can use.
asked = few
