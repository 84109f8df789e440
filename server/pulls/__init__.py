"""Pulls, full load and boost (station 12)."""
