"""One correction of a whole map from many readings: regularised least squares on the controller's own weights."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass

import numpy as np
from scipy import sparse
from scipy.linalg import cho_factor, cho_solve

from ..quantities import FloatArray
from ..tables.weights import weight_matrix
from .samples import Readings

#: Roughness that is tried: how far a cell may stand off the line of its neighbours. [ln]
_ROUGHNESS = (0.003, 0.006, 0.012, 0.025, 0.05, 0.1)
#: Readings further out than this count less. (Huber's k, in standard errors)
_FAR = 1.7
_ROUNDS = 4
#: What no number of readings takes away: sensor and air of one day against another. [ln]
_SHARED = 0.012
_LEAST_READINGS = 5


@dataclass(frozen=True)
class MapFit:
    """A correction of a map.

    Attributes
    ----------
    log_factor, error : ndarray
        ln of the factor and its standard error, one for each cell. [–]
    hits : ndarray
        Readings that stand on each cell, shared as the controller interpolates. [s]
    roughness : float
        That the readings chose. [–]
    scatter : float
        What readings differ by beyond the map, against what each is sure to. [–]
    rest : ndarray
        What is left of each reading. [ln]
    """

    log_factor: FloatArray
    error: FloatArray
    hits: FloatArray
    roughness: float
    scatter: float
    rest: FloatArray

    @property
    def factor(self) -> FloatArray:
        """By what each cell is multiplied. [–]"""
        return np.asarray(np.exp(self.log_factor))


def roughness_matrix(rows: int, columns: int) -> sparse.csr_matrix:
    """Return second differences of a map down and across, one in each row.

    Parameters
    ----------
    rows, columns : int
        Of the map.
    """

    def second(count: int) -> sparse.csr_matrix:
        if count < 3:
            return sparse.csr_matrix((0, count))
        return sparse.diags([1.0, -2.0, 1.0], [0, 1, 2], (count - 2, count), format="csr")

    down = sparse.kron(second(rows), sparse.identity(columns))
    across = sparse.kron(sparse.identity(rows), second(columns))
    return sparse.csr_matrix(sparse.vstack([down, across]))


@dataclass(frozen=True)
class MapPrior:
    """What a map may be off before anything was read.

    Attributes
    ----------
    whole, tilt, bow : float
        As a whole, as a slope over speed, over load and across, and bent over speed or load. (root mean square
        over the map) [ln]
    off : float
        Each cell by itself. [ln]
    light : float
        More than that at an idle's pressure, and less by the square of it above: so much less sure is
        the size of a cause, which is not the likelier for it. [ln]
    """

    whole: float
    tilt: float
    bow: float
    off: float
    light: float = 0.0


#: A map that nobody knows anything of.
OPEN = MapPrior(0.4, 0.15, 0.1, 0.1)


def prior_precision(shape: tuple[int, int], roughness: float, prior: MapPrior) -> FloatArray:
    """Return how sure a map is smooth and not far off, as a precision matrix, shape (cells, cells).

    Parameters
    ----------
    shape : tuple of int
        Rows and columns.
    roughness : float
        How far a cell may stand off the line of its neighbours. [ln]
    prior : MapPrior
    """
    cells = shape[0] * shape[1]
    differences = roughness_matrix(*shape)
    precision = (differences.T @ differences).toarray() / roughness**2
    precision += np.eye(cells) / prior.off**2
    # Level, slopes and bows come on top, each by its own width: (P⁻¹ + U·S·Uᵀ)⁻¹ by Woodbury.
    modes, variances = _modes(shape, prior)
    stiff = precision @ modes
    inner = np.diag(1.0 / variances) + modes.T @ stiff
    return np.asarray(precision - stiff @ np.linalg.solve(inner, stiff.T))


def _modes(shape: tuple[int, int], prior: MapPrior) -> tuple[FloatArray, FloatArray]:
    """Return level, slopes and bows of a map, of root mean square 1, and their variances. [–, ln²]"""
    down, across = (np.linspace(-1.0, 1.0, n) if n > 1 else np.zeros(1) for n in shape)
    rows, columns = np.meshgrid(down, across, indexing="ij")
    fields = [
        (np.ones(shape), prior.whole),
        (rows, prior.tilt),
        (columns, prior.tilt),
        (rows * columns, prior.tilt),
        (1.5 * rows**2 - 0.5, prior.bow),
        (1.5 * columns**2 - 0.5, prior.bow),
    ]
    kept = [
        (field.ravel() / np.sqrt(np.mean(field**2)), spread)
        for field, spread in fields
        if np.ptp(field) or field.any()
    ]
    return np.column_stack([field for field, _ in kept]), np.array(
        [spread**2 for _, spread in kept]
    )


def solve_map(
    readings: Readings,
    axes: Sequence[Sequence[float]],
    *,
    tell: Callable[[float], None] = lambda share: None,
) -> MapFit:
    """Return the correction of a map that readings ask for.

    Parameters
    ----------
    readings : Readings
    axes : sequence of sequence of float
        Breakpoints of rows and columns, as :func:`.places.grid_of`.
    tell : callable
        Called with the share of the work that is done; may raise to end it. [–]

    Notes
    -----
    ln need = A·g + e, A the controller's bilinear weights, g a Gaussian field whose second differences and whose
    distance from the map in force are small; how small, the readings choose by the marginal likelihood. Errors are
    each reading's own times a common scatter, far ones weighed down (Huber).
    """
    shape = (len(axes[0]), len(axes[1]))
    cells = shape[0] * shape[1]
    matrix = weight_matrix(axes, [readings.row, readings.column])
    hits = np.asarray(matrix.sum(axis=0), dtype=float).ravel()
    if len(readings) < _LEAST_READINGS:
        return MapFit(
            np.zeros(shape), np.full(shape, OPEN.whole), hits.reshape(shape), 0.0, 0.0, readings.need
        )  # fmt: skip
    weight, scatter = np.ones(len(readings)), 1.0
    chosen = _ROUGHNESS[len(_ROUGHNESS) // 2]
    best = np.zeros(cells)
    for number in range(_ROUNDS):
        sure = weight / (scatter * readings.spread) ** 2
        gram = (matrix.T @ matrix.multiply(sure[:, None])).toarray()
        pull = np.asarray(matrix.T @ (sure * readings.need))
        energy = float((sure * readings.need**2).sum() - np.log(sure).sum())
        tried = []
        for roughness in _ROUGHNESS if number in (0, _ROUNDS - 1) else (chosen,):
            tried.append(
                (*_evidence(gram, pull, energy, prior_precision(shape, roughness, OPEN)), roughness)
            )
            tell((number + len(tried) / len(_ROUGHNESS)) / (_ROUNDS + 1))
        _, best, chosen = max(tried, key=lambda entry: entry[0])
        rest = readings.need - matrix @ best
        apart = np.abs(rest) / readings.spread
        scatter = max(1.0, 1.4826 * float(np.median(apart)) if apart.size > 20 else scatter)
        weight = np.minimum(1.0, _FAR * scatter / np.maximum(apart, 1e-9))
    covariance = np.linalg.inv(gram + prior_precision(shape, chosen, OPEN))
    error = np.sqrt(np.maximum(np.diag(covariance), 0.0) + _SHARED**2)
    tell(1.0)
    return MapFit(
        best.reshape(shape), error.reshape(shape), hits.reshape(shape), chosen, scatter, rest
    )  # fmt: skip


def _evidence(
    gram: FloatArray, pull: FloatArray, energy: float, precision: FloatArray
) -> tuple[float, FloatArray]:
    """Return the log marginal likelihood, but for a constant, and the best field."""
    whole = cho_factor(gram + precision)
    found = cho_solve(whole, pull)
    prior = cho_factor(precision)
    volume = float(np.log(np.diag(whole[0])).sum() - np.log(np.diag(prior[0])).sum())
    return -0.5 * (energy - float(pull @ found)) - volume, np.asarray(found)
