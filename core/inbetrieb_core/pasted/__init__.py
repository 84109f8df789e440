"""Small tables pasted from a spreadsheet, a data sheet or a test report."""

from .columns import PURPOSES, WantedColumn, sensor_purpose
from .doubts import Doubt
from .reading import Pasted, read_pasted

__all__ = ["PURPOSES", "Doubt", "Pasted", "WantedColumn", "read_pasted", "sensor_purpose"]
