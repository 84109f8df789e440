"""Station 11: the fuel map from logs, and what is not its fault."""
