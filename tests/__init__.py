"""Tests. Nothing is timed here: benchmarks do that."""

from hypothesis import settings

settings.register_profile("untimed", deadline=None)
settings.load_profile("untimed")
