"""The rules of commissioning an engine computer: pure computation, no files, no HTTP.

Quantities are plain floats in one unit each, named in the parameter (``_kpa``, ``_c``,
``_ms``); conversion happens at the border, through :mod:`inbetrieb_core.quantities`.
"""
