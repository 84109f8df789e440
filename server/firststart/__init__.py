"""Station 7: the first start from a run sheet."""
