"""Station 8: the hot idle."""
