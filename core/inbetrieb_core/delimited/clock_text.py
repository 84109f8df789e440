"""Clock times of a column as seconds of the day."""

from __future__ import annotations

import numpy as np
import polars as pl


def clock_seconds(column: pl.Series) -> np.ndarray:
    """Return clock times such as 10:32:07.5, a date before them or not, as seconds since midnight.

    Parameters
    ----------
    column : polars.Series
        Texts; what is no clock time becomes NaN. [s]
    """
    text = (
        column.cast(pl.String)
        .str.strip_chars(' "')
        .str.replace(r"^.*[T ]", "")
        .str.strip_suffix("Z")
    )
    parts = text.str.replace_all(",", ".").str.split(":")
    count = parts.list.len()
    pieces = [parts.list.get(i, null_on_oob=True).cast(pl.Float64, strict=False) for i in range(4)]
    frame = pl.DataFrame({"n": count, **{f"p{i}": piece for i, piece in enumerate(pieces)}})
    seconds = frame.select(
        pl.when(pl.col("n") == 2)
        .then(pl.col("p0") * 60.0 + pl.col("p1"))
        .when(pl.col("n") == 3)
        .then(pl.col("p0") * 3600.0 + pl.col("p1") * 60.0 + pl.col("p2"))
        # h:m:s:ms, as some loggers write it
        .otherwise(
            pl.col("p0") * 3600.0 + pl.col("p1") * 60.0 + pl.col("p2") + pl.col("p3") / 1000.0
        )
    ).to_series()
    return np.array(seconds.to_numpy(), dtype=float)
