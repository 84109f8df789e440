"""Compiles the loops of plain numbers ahead, the same source as runs without: see docs/decisions/0054.

Where the compiler of types or a C compiler is missing the core is installed as it is, and is slower.
"""

from pathlib import Path

from setuptools import setup

CORE = Path("core")
COMPILED = [CORE / "inbetrieb_core" / name for name in (CORE / "compiled.txt").read_text().split()]


def extensions() -> list:
    """Return the compiled modules; none where nothing can compile them."""
    try:
        from mypyc.build import mypycify
    except ImportError:
        return []
    options = [
        "--config-file=",
        "--disallow-untyped-defs",
        "--ignore-missing-imports",
        "--follow-imports=skip",
        "--allow-subclassing-any",
        "--no-warn-return-any",
    ]
    found = mypycify(
        [*options, *map(str, COMPILED)], opt_level="2", debug_level="0", group_name="inbetrieb_core"
    )
    for extension in found:
        extension.optional = True  # no C compiler is no reason not to install
    return found


setup(ext_modules=extensions())
