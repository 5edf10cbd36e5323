"""How long a head takes along a course: trapezoidal speed, and a speed at corners that keeps the head within a deviation.

At acceleration a a move of length s takes s/v + v/a from rest to rest where it reaches the speed v, else 2·√(s/a) (kinematics).
At a corner v² = a·δ·sin(θ/2)/(1 − sin(θ/2)), θ the angle between the legs (junction deviation, published with open
motion-control firmware; from memory).
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from skalto.core.geometry import Array


@dataclass(frozen=True)
class Motion:
    """*acceleration*, mm/s², and *deviation* at corners, mm."""

    acceleration: float
    deviation: float


def rest_to_rest(length: Array | float, speed: float, acceleration: float) -> Array:
    """How long straight moves (n,) take from rest to rest, s."""
    s = np.asarray(length, float)
    long = s >= speed * speed / acceleration
    found: Array = np.where(long, s / speed + speed / acceleration, 2 * np.sqrt(s / acceleration))
    return found


def corner_speeds(points: Array, motion: Motion) -> Array:
    """The largest speeds at the inner corners of a polyline (n, 2), mm/s, (n − 2,)."""
    steps = np.diff(points, axis=0)
    size = np.maximum(np.hypot(*steps.T), 1e-12)
    unit = steps / size[:, None]
    # the angle between the legs: π straight on, 0 back again
    cos = -(unit[:-1] * unit[1:]).sum(axis=1)
    half = np.sqrt(np.clip((1 - cos) / 2, 0, 1))
    with np.errstate(divide="ignore"):
        speed = np.sqrt(motion.acceleration * motion.deviation * half / np.maximum(1 - half, 1e-12))
    # along chords of a curve no faster than what keeps the pull sideways at the acceleration
    turn = np.arccos(np.clip(-cos, -1, 1))
    bend = turn / np.maximum((size[:-1] + size[1:]) / 2, 1e-12)
    with np.errstate(divide="ignore"):
        round_ = np.sqrt(motion.acceleration / np.maximum(bend, 1e-12))
    smooth = turn < 0.35
    found: Array = np.where(smooth, np.minimum(np.maximum(speed, round_), round_), speed)
    return found


def times_along(points: Array, speed: float, motion: Motion) -> Array:
    """When a head that starts and ends at rest is at each point of a polyline (n, 2), s, (n,), from 0 on."""
    if len(points) < 2:
        return np.zeros(len(points))
    length = np.hypot(*np.diff(points, axis=0).T)
    top = np.full(len(points), speed)
    top[0] = top[-1] = 0.0
    if len(points) > 2:
        top[1:-1] = np.minimum(speed, corner_speeds(points, motion))
    two = 2 * motion.acceleration
    squares = (top * top).tolist()
    gain = (two * length).tolist()
    # no faster than what can be braked from, then no faster than what can be reached
    for n in range(len(squares) - 2, -1, -1):
        squares[n] = min(squares[n], squares[n + 1] + gain[n])
    for n in range(1, len(squares)):
        squares[n] = min(squares[n], squares[n - 1] + gain[n - 1])
    v = np.sqrt(np.maximum(np.array(squares), 0.0))
    a, before, after = motion.acceleration, v[:-1], v[1:]
    peak = np.sqrt((before**2 + after**2) / 2 + a * length)
    cruises = peak > speed
    ramp = (2 * speed - before - after) / a
    rest = np.maximum(length - (2 * speed**2 - before**2 - after**2) / (2 * a), 0.0)
    spent = np.where(cruises, ramp + rest / speed, (2 * peak - before - after) / a)
    return np.concatenate(([0.0], np.cumsum(np.maximum(spent, 0.0))))
