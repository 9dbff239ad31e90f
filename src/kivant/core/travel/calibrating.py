"""Calibrating: what scale, lost motion and periodic errors explain what was observed.

The model is observed = offset + scale x position - approach x backlash / 2, and for shafts whose error is significant
amplitude x cos(turns of that shaft x 360 deg - phase). It is fitted by least squares; readings that are far off the
others are found from a robust fit first, and left out.

References
----------
.. [1] G. A. F. Seber, A. J. Lee, *Linear Regression Analysis*, 2nd ed., Wiley, 2003, ch. 3 (least squares, standard
   errors), ch. 4 (F test of a subset of regressors) and ch. 10 (externally studentized residuals).
.. [2] P. J. Huber, E. M. Ronchetti, *Robust Statistics*, 2nd ed., Wiley, 2009, ch. 7 (M-estimates of regression).
.. [3] JCGM 100:2008, *Guide to the expression of uncertainty in measurement*, annex G.3 (Student's t).
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from typing import Any

import numpy as np
from msgspec import Struct
from msgspec.structs import replace
from numpy.typing import NDArray

from kivant.core.errors import Fault, KivantError
from kivant.core.machine.parts import Axis
from kivant.core.travel.shafts import ratio_so_far, shaft_rates
from kivant.core.travel.stages import stage_kind

Reals = NDArray[np.float64]

LEVEL = 0.01
"""How seldom chance alone is to look like a periodic error or an outlier, all places that are looked at together."""
MOST_SCALE_ERROR = 0.2
"""A scale that is farther off than this is no correction: the chain is another one, or the units are."""
LEAST_READINGS, LEAST_PLACES = 3, 2
_ROUNDS = 50
_BEYOND_TWICE = 0.0227501319  # of a normal distribution lies above twice its standard deviation
_HUBER, _MAD = 1.345, 1.4826  # 95 % efficient for a normal distribution; its standard deviation over its median


class CalibrationError(KivantError):
    """Readings that do not tell what is asked."""


class Observation(Struct, frozen=True):
    """Where the axis was commanded, from which side it came (1, -1, or 0 if not known), and what was read."""

    position: float
    approach: int
    observed: float


class Periodic(Struct, frozen=True):
    """An error that comes once a turn of a shaft: 0 the rotor, k the output of stage k. Axis units and degrees."""

    shaft: int
    amplitude: float
    amplitude_se: float
    phase_deg: float


class Fit(Struct, frozen=True):
    """What explains the observations; standard uncertainties end in ``_se``, lengths are in axis units.

    ``residuals`` are those of all observations, ``outliers`` their numbers from 1 that were left out. ``sense`` is -1
    where readings fall as commanded positions rise; all else is then told of the readings with their sign changed.
    """

    scale: float
    scale_se: float
    offset: float
    offset_se: float
    backlash: float
    backlash_se: float
    residual: float
    periodic: tuple[Periodic, ...] = ()
    outliers: tuple[int, ...] = ()
    residuals: tuple[float, ...] = ()
    both_ways: bool = True
    readings: int = 0
    sense: int = 1


def fit(axis: Axis, observations: Sequence[Observation]) -> Fit:
    """Return what explains the observations.

    Raises
    ------
    CalibrationError
        If they are too few or all at one place, or explained only by a scale that is no correction.
    """
    position = np.array([o.position for o in observations], np.float64)
    approach = np.array([o.approach for o in observations], np.float64)
    observed = np.array([o.observed for o in observations], np.float64)
    _refuse_few(position)
    sense = _sense(position, observed)
    found = _fit(axis, position, approach, sense * observed)
    return replace(found, sense=sense, offset=sense * found.offset)


def _sense(position: Reals, observed: Reals) -> int:
    """Return 1 if readings rise with positions and -1 if they fall, by their ranks: a few wild ones do not count."""
    ranks = [np.argsort(np.argsort(column, kind="stable"), kind="stable") for column in (position, observed)]
    middle = (len(position) - 1) / 2
    return -1 if float((ranks[0] - middle) @ (ranks[1] - middle)) < 0 else 1


def _fit(axis: Axis, position: Reals, approach: Reals, observed: Reals) -> Fit:
    both = bool((approach > 0).any() and (approach < 0).any())
    middle = float(position.mean())
    base = [np.ones_like(position), position - middle, *([-approach / 2] if both else [])]
    kept = _robustly(np.stack(base, axis=1), observed)
    shafts: list[int] = []
    for _ in range(3):  # periodic errors make outliers, and outliers hide periodic errors
        shafts = _significant(base, position, observed, kept, shaft_rates(axis))
        design = _design(base, position, shafts, shaft_rates(axis))
        again = _without_outliers(design, observed, kept)
        if (again == kept).all():
            break
        kept = again
    design = _design(base, position, shafts, shaft_rates(axis))
    return _told(design, observed, kept, shafts, middle, both=both)


def _refuse_few(position: Reals) -> None:
    if len(position) < LEAST_READINGS or len(np.unique(position)) < LEAST_PLACES:
        there = f"{len(position)} at {len(np.unique(position))}"
        message = f"At least three readings at two places are needed; there are {there}."
        raise CalibrationError(Fault("readings", message, "Read at more places."))


def _design(base: list[Reals], position: Reals, shafts: list[int], rates: list[float]) -> Reals:
    columns = list(base)
    for shaft in shafts:
        angle = 2 * math.pi * rates[shaft] * position
        columns += [np.cos(angle), np.sin(angle)]
    return np.stack(columns, axis=1)


def _solve(design: Reals, observed: Reals, weights: Reals | None = None) -> Reals:
    root = np.ones(len(observed)) if weights is None else np.sqrt(weights)
    found: Reals = np.linalg.lstsq(design * root[:, None], observed * root, rcond=None)[0].astype(np.float64)
    return found


def _robustly(design: Reals, observed: Reals) -> NDArray[np.bool_]:
    """Return which observations agree with most of the others: Huber's estimate, begun from absolute deviations."""
    weights: Reals = np.ones(len(observed))
    spread = 0.0
    for turn in range(_ROUNDS):
        away = np.abs(observed - design @ _solve(design, observed, weights))
        spread = _MAD * float(np.median(away))
        if spread <= 1e-12 * (1 + float(np.max(np.abs(observed)))):
            return away <= 1e-9 * (1 + float(np.max(np.abs(observed))))
        least = np.maximum(away, spread * 1e-3)
        pull = spread / least
        weights = np.asarray(pull if turn < _ROUNDS // 2 else np.minimum(1.0, _HUBER * pull), np.float64)
    kept: NDArray[np.bool_] = away <= 5.0 * spread
    return kept if kept.sum() >= max(design.shape[1] + 1, len(observed) // 2) else np.ones(len(observed), np.bool_)


def _rss(design: Reals, observed: Reals) -> float:
    away = observed - design @ _solve(design, observed)
    return float(away @ away)


def _significant(
    base: list[Reals], position: Reals, observed: Reals, kept: NDArray[np.bool_], rates: list[float]
) -> list[int]:
    """Return the shafts that have a periodic error, found one after the other by an F test [1]_."""
    from scipy.stats import f  # costs start time

    shafts: list[int] = []
    while True:
        now = _design(base, position, shafts, rates)[kept]
        before, best = _rss(now, observed[kept]), (1.0, -1)
        for shaft in range(len(rates)):
            if shaft in shafts:
                continue
            more = _design(base, position, [*shafts, shaft], rates)[kept]
            free = len(more) - more.shape[1]
            # A shaft that stood at the same angle at every place cannot be told from the others.
            if free < 3 or np.linalg.cond(more / np.linalg.norm(more, axis=0)) > 1e4:
                continue
            after = _rss(more, observed[kept])
            ratio = (before - after) / 2 / max(after / free, 1e-300)
            best = min(best, (float(f.sf(ratio, 2, free)), shaft))
        if best[1] < 0 or best[0] * len(rates) > LEVEL:
            return sorted(shafts)
        shafts.append(best[1])


def _without_outliers(design: Reals, observed: Reals, kept: NDArray[np.bool_]) -> NDArray[np.bool_]:
    """Return which observations lie within what chance allows, judged by the others [1]_."""
    from scipy.stats import t

    own = design[kept]
    free = len(own) - own.shape[1] - 1
    if free < 2:
        return kept
    inverse = np.linalg.pinv(own.T @ own)
    away = observed - design @ _solve(own, observed[kept])
    rss = float(away[kept] @ away[kept])
    leverage = np.einsum("ij,jk,ik->i", design, inverse, design)
    scale = max(rss / (free + 1), (1e-12 * (1 + float(np.max(np.abs(observed))))) ** 2)
    # Those that are in are judged without themselves; those that are out, by what is predicted for them.
    inside = np.maximum((rss - away**2 / np.maximum(1 - leverage, 1e-9)) / free, scale * 1e-6)
    spread = np.where(kept, np.sqrt(inside * np.maximum(1 - leverage, 1e-9)), np.sqrt(scale * (1 + leverage)))
    limit = float(t.isf(LEVEL / (2 * len(observed)), free))
    found: NDArray[np.bool_] = np.abs(away) <= limit * spread
    return found if found.sum() > own.shape[1] + 1 else kept


def _told(
    design: Reals, observed: Reals, kept: NDArray[np.bool_], shafts: list[int], middle: float, *, both: bool
) -> Fit:
    own = design[kept]
    found = _solve(own, observed[kept])
    away = observed - design @ found
    free = len(own) - own.shape[1]
    variance = float(away[kept] @ away[kept]) / free if free > 0 else 0.0
    covariance = np.linalg.pinv(own.T @ own) * variance * _widened(free) ** 2
    se = np.sqrt(np.diag(covariance))
    scale = float(found[1])
    if abs(scale - 1) > MOST_SCALE_ERROR:
        message = f"The readings need a scale of {scale:.4g}, which is too far from 1."
        raise CalibrationError(
            Fault("readings", message, "Check the stages of the axis, and the units of the readings.")
        )
    offset = float(found[0]) - scale * middle
    offset_se = math.sqrt(max(covariance[0, 0] + middle**2 * covariance[1, 1] - 2 * middle * covariance[0, 1], 0.0))
    periodic = []
    for k, shaft in enumerate(shafts):
        i = (3 if both else 2) + 2 * k
        a, b = float(found[i]), float(found[i + 1])
        amplitude = math.hypot(a, b)
        toward = np.array([a, b]) / amplitude
        amplitude_se = math.sqrt(max(float(toward @ covariance[i : i + 2, i : i + 2] @ toward), 0.0))
        periodic.append(Periodic(shaft, amplitude, amplitude_se, math.degrees(math.atan2(b, a)) % 360.0))
    lost: tuple[Any, Any] = (float(found[2]), float(se[2])) if both else (0.0, 0.0)
    return Fit(
        scale=scale, scale_se=float(se[1]), offset=offset, offset_se=offset_se, backlash=lost[0], backlash_se=lost[1],
        residual=math.sqrt(variance), periodic=tuple(periodic),
        outliers=tuple(int(k) + 1 for k in np.flatnonzero(~kept)), residuals=tuple(away.tolist()), both_ways=both,
        readings=len(observed),
    )  # fmt: skip


def _widened(free: int) -> float:
    """Return how much wider an uncertainty of so few degrees of freedom is, so that twice it means the same [3]_."""
    from scipy.stats import t  # costs start time

    return float(t.isf(_BEYOND_TWICE, free)) / 2 if free > 0 else 1.0


def verdict(axis: Axis, found: Fit) -> str:
    """Return what was found in words: how far a turn or 100 mm is off, the true ratio, lost motion, periodic errors."""
    whole, name = (360.0, "one turn") if axis.unit == "deg" else (100.0, "100 mm")
    off, off_se = (found.scale - 1) * whole, found.scale_se * whole
    if abs(off) > 2 * off_se:
        parts = [f"{name} is {_with(abs(off), off_se)} {axis.unit} {'short' if off < 0 else 'long'}"]
        turning = [stage for stage in axis.travel if not stage_kind(stage).linear]
        if axis.unit == "deg" and turning:
            ratio = float(ratio_so_far(axis, len(axis.travel))) / found.scale
            parts[0] += f": true ratio 1:{_digits(ratio, ratio * found.scale_se)}"
    else:
        parts = [f"{name} is right, to {off_se * 2:.2g} {axis.unit}"]
    if found.sense < 0:
        parts.insert(0, "the tool goes the other way: readings fall where positions rise")
    if not found.both_ways:
        parts.append("lost motion cannot be told from one side only")
    elif abs(found.backlash) > 2 * found.backlash_se:
        parts.append(f"lost motion {_with(found.backlash, found.backlash_se)} {axis.unit}")
    else:
        parts.append(f"no lost motion beyond {2 * found.backlash_se:.2g} {axis.unit}")
    for error in found.periodic:
        where = "the rotor" if error.shaft == 0 else f"stage {error.shaft}"
        parts.append(f"once a turn of {where} {_with(error.amplitude, error.amplitude_se)} {axis.unit}")
    if found.outliers:
        rows = ", ".join(map(str, found.outliers))
        many = "s" if len(found.outliers) > 1 else ""
        parts.append(f"left out: reading{many} {rows}, farther from the others than chance explains")
    return "; ".join(parts)


def _digits(value: float, se: float) -> str:
    """Return a value with as many decimals as its uncertainty deserves."""
    decimals = 6 if se <= 0 else min(max(1 - math.floor(math.log10(se)), 0), 9)
    return f"{value:.{decimals}f}"


def _with(value: float, se: float) -> str:
    return f"{_digits(value, se)} ± {_digits(se, se)}"
