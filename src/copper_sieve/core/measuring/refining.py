"""Lamps made better by the surface that they tell, with its glints: those know no bas-relief."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from copper_sieve.core.image.raster import Float
from copper_sieve.core.measuring.lamps import Lamp
from copper_sieve.core.measuring.showing import roughness_of, shown
from copper_sieve.core.measuring.solving import Solved, solve

_STEPS = 3  # of Gauss and Newton, for each lamp and turn
_SMALL = 2e-3  # radians
_FARTHEST = 0.1  # radians of a step


def refined(light: Float, lamps: Sequence[Lamp], noise: float, turns: int) -> list[Lamp]:
    """Far lamps, each turned to where it explains its picture best, in turns with the surface.

    light : (L, H, W, 3) float32, lined up, negative where a picture has none
    """
    towards = np.stack([lamp.unit for lamp in lamps]).astype(np.float32)
    for _ in range(turns):
        rough = roughness_of(light, towards, noise)
        found = solve(light, towards, rough, noise)
        for n in range(len(towards)):
            towards[n] = _turned(light[n], towards[n], found, rough, noise)
    return [
        Lamp((float(x), float(y), float(z)), strength=lamp.strength)
        for lamp, (x, y, z) in zip(lamps, towards, strict=True)
    ]


def cost_of(light: Float, lamps: Sequence[Lamp], noise: float) -> float:
    """How badly these lamps explain the pictures, [0, 1]."""
    towards = np.stack([lamp.unit for lamp in lamps]).astype(np.float32)
    rough = roughness_of(light, towards, noise)
    found = solve(light, towards, rough, noise)
    total = []
    for n in range(len(towards)):
        due = shown(found, rough, towards[n])
        square = ((light[n].mean(-1) - due) / (2 * (noise + 0.02 * due))) ** 2
        seen = np.all(light[n] >= 0, axis=-1)
        total.append(float((square / (1 + square))[seen].mean()))
    return float(np.mean(total))


def _turned(light: Float, towards: Float, found: Solved, rough: Float, noise: float) -> Float:
    grey, seen = light.mean(-1), np.all(light >= 0, axis=-1)
    for _ in range(_STEPS):
        x, _y, z = towards
        u = np.array([z, 0, -x], np.float32) / max(float(np.hypot(x, z)), 1e-6)
        v = np.cross(towards, u).astype(np.float32)
        here = shown(found, rough, towards)
        ways = np.stack([
            ((shown(found, rough, towards + np.float32(_SMALL) * one) - here) / _SMALL)[seen]
            for one in (u, v)
        ]).astype(np.float64)  # fmt: skip
        left = (grey - here)[seen].astype(np.float64)
        width = 2 * (noise + 0.05 * here[seen]) + 0.1 * np.abs(ways).sum(0)
        weight = 1 / (1 + (left / width) ** 2) ** 2 / width**2
        square = (ways * weight) @ ways.T
        square += 1e-6 * np.trace(square) * np.eye(2) + 1e-12 * np.eye(2)
        step = np.linalg.solve(square, (ways * weight) @ left)
        step *= min(1.0, _FARTHEST / max(float(np.linalg.norm(step)), 1e-12))
        towards = towards + step[0] * u + step[1] * v
        towards = (towards / np.linalg.norm(towards)).astype(np.float32)
    return towards
