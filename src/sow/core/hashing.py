"""Randomness by hashing: the same (seed, place, index) gives the same number anywhere, in any
order.
"""

import numpy as np
from numba import njit

u32 = np.uint32


@njit(forceinline=True)
def mix(h):
    """A 32 bit finaliser with low bias (constants by C. Wellons, 2018)."""
    h = u32(h ^ (h >> u32(16)))
    h = u32(h * u32(0x7FEB352D))
    h = u32(h ^ (h >> u32(15)))
    h = u32(h * u32(0x846CA68B))
    return u32(h ^ (h >> u32(16)))


@njit(forceinline=True)
def hash3(a, b, c):
    """uint32 from three integers."""
    h = mix(u32(u32(a) * u32(0x9E3779B1) + u32(0x7F4A7C15)))
    h = mix(u32(h ^ u32(u32(b) * u32(0x85EBCA6B))))
    return mix(u32(h ^ u32(u32(c) * u32(0xC2B2AE35))))


@njit(forceinline=True)
def unit(h):
    """uint32 to float64 in [0, 1)."""
    return h * (1.0 / 4294967296.0)


def name_seed(*parts) -> int:
    """A stable 31 bit seed from names and numbers (FNV-1a, Fowler, Noll & Vo)."""
    h = 2166136261
    for byte in "/".join(map(str, parts)).encode():
        h = ((h ^ byte) * 16777619) & 0xFFFFFFFF
    return h & 0x7FFFFFFF
