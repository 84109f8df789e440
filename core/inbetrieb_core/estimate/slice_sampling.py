"""Elliptical slice sampling, many chains at once.

Murray, Adams & MacKay, Elliptical slice sampling, AISTATS 2010: draws from a posterior whose prior is
Gaussian, without a step size to choose.
"""

from __future__ import annotations

from collections.abc import Callable

import numpy as np

from ..quantities import FloatArray
from .draws import single

#: A chain that has not found a place by then stays where it is. The way back takes as many shrinks, so
#: that the balance of the steps is kept.
_MOST_SHRINKS = 12
#: Shrinks that are tried at once: most chains need few, and a call for few of them costs as much as one for many.
_BLOCKS = (slice(0, 2), slice(2, 5), slice(5, _MOST_SHRINKS))
#: Draws of the prior among which the chains choose where they begin.
_BEGIN_FROM = 2000


def sample(
    log_likelihood: Callable[[FloatArray], FloatArray],
    size: int,
    *,
    chains: int,
    burn_in: int,
    kept: int,
    seed: int,
    begin: tuple[FloatArray, FloatArray] | None = None,
) -> FloatArray:
    """Return draws of a vector with a standard normal prior.

    Parameters
    ----------
    log_likelihood : callable
        From states, shape (chains, size), to one value each.
    size : int
        Of a state.
    chains : int
        That run side by side.
    burn_in, kept : int
        Steps that are thrown away, and steps that are kept of every chain.
    seed : int
        The same seed gives the same draws.
    begin : tuple of ndarray, optional
        Draws of a like posterior, shape (n, size), and their log likelihood there, shape (n,): the
        chains begin among them instead of among draws of the prior.

    Returns
    -------
    ndarray, shape (chains · kept, size)
        In single precision, as states are kept.
    """
    rng = np.random.default_rng(seed)
    state, value = _begin(log_likelihood, rng, size, chains, begin)
    draws = []
    for step in range(burn_in + kept):
        state, value = _step(log_likelihood, state, value, rng)
        if step >= burn_in:
            draws.append(state)
    return np.concatenate(draws)


def _begin(
    log_likelihood: Callable[[FloatArray], FloatArray],
    rng: np.random.Generator,
    size: int,
    chains: int,
    begin: tuple[FloatArray, FloatArray] | None,
) -> tuple[FloatArray, FloatArray]:
    """Return where the chains begin: draws of the prior, or others, chosen by how well they do."""
    if begin is None:
        draws, before = _normal(rng, (_BEGIN_FROM, size)), np.zeros(_BEGIN_FROM)
    else:
        draws, before = begin
    told = log_likelihood(draws)
    better = told - before
    share = np.exp(better - better.max())
    chosen = rng.choice(len(draws), size=chains, p=share / share.sum())
    return draws[chosen], told[chosen]


def _step(
    log_likelihood: Callable[[FloatArray], FloatArray],
    state: FloatArray,
    value: FloatArray,
    rng: np.random.Generator,
) -> tuple[FloatArray, FloatArray]:
    chains = state.shape[0]
    other = _normal(rng, state.shape)
    level = value + np.log(rng.random(chains))
    angles = _angles(rng.random((_MOST_SHRINKS, chains)))
    result, found = state.copy(), value.copy()
    open_chains = np.arange(chains)
    for block in _BLOCKS:
        turn = single(angles[block][:, open_chains, None])
        proposal = state[open_chains] * np.cos(turn) + other[open_chains] * np.sin(turn)
        told = log_likelihood(proposal.reshape(-1, state.shape[1])).reshape(turn.shape[:2])
        good = told > level[open_chains]
        first, which = good.argmax(axis=0), np.flatnonzero(good.any(axis=0))
        there = first[which], which
        result[open_chains[which]] = proposal[there]
        found[open_chains[which]] = told[there]
        open_chains = np.delete(open_chains, which)
        if not open_chains.size:
            break
    return result, found


def _normal(rng: np.random.Generator, shape: tuple[int, ...]) -> FloatArray:
    """Return standard normal numbers in single precision, as which states are kept. [–]"""
    return np.asarray(rng.standard_normal(shape, dtype=np.float32))


def _angles(random: FloatArray) -> FloatArray:
    """Return the angles that chains try one after the other as long as none is taken.

    Which way a bracket shrinks goes by the sign of the angle that was refused, not by the likelihood:
    so the angles are known before any is tried.

    Parameters
    ----------
    random : ndarray, shape (shrinks, chains)
        Uniform, 0 to 1. [–]
    """
    angles = np.empty_like(random)
    high = random[0] * 2.0 * np.pi
    low = high - 2.0 * np.pi
    angles[0] = high
    for angle, before, share in zip(angles[1:], angles, random[1:], strict=False):
        low, high = np.where(before < 0.0, before, low), np.where(before < 0.0, high, before)
        angle[:] = low + (high - low) * share
    return angles
