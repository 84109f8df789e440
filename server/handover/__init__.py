"""Handover: the record that says what is proven (station 13)."""
