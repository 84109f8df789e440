"""Tests. Nothing is timed here: benchmarks do that."""

from hypothesis import settings

from .examples import few

settings.register_profile("untimed", deadline=None, max_examples=few(100))
settings.load_profile("untimed")
