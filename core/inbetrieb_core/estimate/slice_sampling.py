"""Elliptical slice sampling, many chains at once.

Murray, Adams & MacKay, Elliptical slice sampling, AISTATS 2010: draws from a posterior whose prior is
Gaussian, without a step size to choose.
"""

from __future__ import annotations

from collections.abc import Callable

import numpy as np

from ..quantities import FloatArray

#: A chain that has not found a place by then stays where it is. The way back takes as many shrinks, so
#: that the balance of the steps is kept.
_MOST_SHRINKS = 12
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
        draws, before = rng.standard_normal((_BEGIN_FROM, size)), np.zeros(_BEGIN_FROM)
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
    other = rng.standard_normal(state.shape)
    level = value + np.log(rng.random(chains))
    angle: FloatArray = np.asarray(rng.random(chains) * 2.0 * np.pi)
    low: FloatArray = np.asarray(angle - 2.0 * np.pi)
    high = angle.copy()
    result, found = state.copy(), value.copy()
    open_chains = np.arange(chains)
    for _ in range(_MOST_SHRINKS):
        turn = angle[open_chains, None]
        proposal = state[open_chains] * np.cos(turn) + other[open_chains] * np.sin(turn)
        told = log_likelihood(proposal)
        good = told > level[open_chains]
        result[open_chains[good]] = proposal[good]
        found[open_chains[good]] = told[good]
        open_chains = open_chains[~good]
        if not open_chains.size:
            break
        negative = angle[open_chains] < 0.0
        low[open_chains[negative]] = angle[open_chains[negative]]
        high[open_chains[~negative]] = angle[open_chains[~negative]]
        span = high[open_chains] - low[open_chains]
        angle[open_chains] = low[open_chains] + span * rng.random(open_chains.size)
    return result, found
