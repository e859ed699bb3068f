"""The kernels of noise: lattice gradients summed over octaves, and cells, compiled by numba."""

import numpy as np
from numba import njit, prange

from .hashing import hash3, mix, u32

LIFT = np.float32(
    0.6 / 255
    # each corner has a hashed value too, so that the noise does not vanish on the lattice and show
    # it
)

FBM = 0

RIDGED = 1

BILLOW = 2

DAMPED = 3


@njit(cache=True, nogil=True, forceinline=True)
def _fade(f):
    return f * f * f * (f * (f * np.float32(6) - np.float32(15)) + np.float32(10))


@njit(cache=True, nogil=True, forceinline=True)
def _corner(ix, iy, seed):
    """Hash of a lattice corner: one finaliser, since four of them make a point."""
    return mix(u32(u32(ix) * u32(0x9E3779B1)) ^ u32(u32(u32(iy) * u32(0x85EBCA6B)) + seed))


@njit(cache=True, nogil=True, forceinline=True)
def _bow(a):
    """sin(pi a) for a in -1..1, within 0.001 (parabolas): no table, since gathering from one is
    slow.
    """
    s = np.float32(4) * a * (np.float32(1) - np.abs(a))
    return s * (np.float32(0.775) + np.float32(0.225) * np.abs(s))


@njit(cache=True, nogil=True, forceinline=True)
def _gradient(h):
    """Unit vector by the lower 16 bits of a hash."""
    a = np.float32(np.int32(h & u32(0xFFFF))) * np.float32(1 / 32768) - np.float32(1)
    c = a + np.float32(0.5)
    c = c - np.float32(2) if c > np.float32(1) else c
    return _bow(c), _bow(a)


@njit(cache=True, nogil=True, forceinline=True)
def _lift(h):
    return (np.float32(np.int32((h >> u32(16)) & u32(255))) - np.float32(127.5)) * LIFT


@njit(cache=True, nogil=True, forceinline=True)
def _sharpen(r, sharp):
    """r, r² or r to the fourth as `sharp` goes from 0 over 1 to 2."""
    s = r * r
    return (
        r + sharp * (s - r) if sharp < np.float32(1) else s + (sharp - np.float32(1)) * (s * s - s)
    )


@njit(cache=True, nogil=True, parallel=True, fastmath={"contract"})
def grid_kernel(
    out,
    ys,
    cols,
    fracs,
    fades,
    starts,
    first,
    counts,
    inverse,
    shift,
    seeds,
    amps,
    mode,
    gain,
    sharp,
):
    ny, nx = out.shape
    octaves = len(seeds)
    one, zero = np.float32(1), np.float32(0)
    widest = counts.max() + 2
    for block in prange((ny + 31) // 32):
        a = np.empty(widest, np.float32)
        b = np.empty(widest, np.float32)
        row = np.empty(nx, np.float32)
        weight = np.empty(nx, np.float32)
        for r in range(block * 32, min(ny, block * 32 + 32)):
            acc = out[r]
            for i in range(nx):
                acc[i] = zero
                weight[i] = one
            for o in range(octaves):
                yl = ys[r] * inverse[o] + shift[o]
                yi = np.floor(yl)
                fy = np.float32(yl - yi)
                sy = _fade(fy)
                iy = np.int64(yi)
                n = counts[o]
                for c in range(n + 1):
                    h0 = _corner(first[o] + c, iy, seeds[o])
                    h1 = _corner(first[o] + c, iy + 1, seeds[o])
                    g0x, g0y = _gradient(h0)
                    g1x, g1y = _gradient(h1)
                    a[c] = g0x + sy * (g1x - g0x)
                    low = g0y * fy + _lift(h0)
                    b[c] = low + sy * (g1y * (fy - one) + _lift(h1) - low)
                amp = amps[o]
                if (
                    mode == FBM and nx < 20 * n
                ):  # few posts a cell: a slice for each would cost more than its posts
                    along = fracs[o]
                    bend = fades[o]
                    at = starts[o]
                    for c in range(n):
                        a0 = a[c]
                        b0 = b[c]
                        a1 = a[c + 1]
                        b1 = b[c + 1] - a1
                        for i in range(at[c], at[c + 1]):
                            k = np.uint64(i)
                            v = a0 * along[k] + b0
                            acc[k] += amp * (v + bend[k] * (a1 * along[k] + b1 - v))
                    continue
                for c in range(n):
                    s, e = starts[o, c], starts[o, c + 1]
                    a0 = a[c]
                    b0 = b[c]
                    a1 = a[c + 1]
                    b1 = b[c + 1] - a1
                    f, w = fracs[o, s:e], fades[o, s:e]
                    if mode == FBM:
                        target = acc[s:e]
                        for i in range(e - s):
                            v = a0 * f[i] + b0
                            target[i] += amp * (v + w[i] * (a1 * f[i] + b1 - v))
                    else:
                        target = row[s:e]
                        for i in range(e - s):
                            v = a0 * f[i] + b0
                            target[i] = v + w[i] * (a1 * f[i] + b1 - v)
                if mode == RIDGED:
                    for i in range(nx):
                        ridge = _sharpen(one - np.abs(row[i]) * np.float32(1.6), sharp) * weight[i]
                        acc[i] += amp * ridge
                        weight[i] = min(one, max(zero, ridge * gain))
                elif mode == BILLOW:
                    for i in range(nx):
                        acc[i] += amp * (
                            one - _sharpen(one - np.abs(row[i]) * np.float32(1.6), sharp)
                        )


@njit(cache=True, nogil=True, forceinline=True)
def _point_slope(x, y, seed):
    """The noise at a point and its two derivatives."""
    xi, yi = np.floor(x), np.floor(y)
    fx, fy = np.float32(x - xi), np.float32(y - yi)
    ix, iy = np.int64(xi), np.int64(yi)
    one = np.float32(1)
    h00, h10 = _corner(ix, iy, seed), _corner(ix + 1, iy, seed)
    h01 = _corner(ix, iy + 1, seed)
    h11 = _corner(ix + 1, iy + 1, seed)
    ax, ay = _gradient(h00)
    bx, by = _gradient(h10)
    cx, cy = _gradient(h01)
    dx, dy = _gradient(h11)
    n00 = ax * fx + ay * fy + _lift(h00)
    n10 = bx * (fx - one) + by * fy + _lift(h10)
    n01 = cx * fx + cy * (fy - one) + _lift(h01)
    n11 = dx * (fx - one) + dy * (fy - one) + _lift(h11)
    sx, sy = _fade(fx), _fade(fy)
    tx = np.float32(30) * fx * fx * (fx * (fx - np.float32(2)) + one)
    ty = np.float32(30) * fy * fy * (fy * (fy - np.float32(2)) + one)
    k = n00 - n10 - n01 + n11
    v = n00 + sx * (n10 - n00) + sy * (n01 - n00) + sx * sy * k
    gx = ax + sx * (bx - ax) + sy * (cx - ax) + sx * sy * (ax - bx - cx + dx)
    gy = ay + sx * (by - ay) + sy * (cy - ay) + sx * sy * (ay - by - cy + dy)
    return v, gx + tx * (n10 - n00 + sy * k), gy + ty * (n01 - n00 + sx * k)


@njit(cache=True, nogil=True, forceinline=True, fastmath={"contract"})
def _octave_row(row, x, y, inverse, shift, seed):
    """One octave at scattered places of a row: straight lines without a branch, so that posts go
    through several at a time.
    """
    one = np.float32(1)
    for i in range(row.size):
        lx, ly = x[i] * inverse + shift, y[i] * inverse + shift
        xi, yi = np.floor(lx), np.floor(ly)
        fx, fy = np.float32(lx - xi), np.float32(ly - yi)
        px, py = u32(np.int32(xi)), u32(np.int32(yi))
        a0 = u32(px * u32(0x9E3779B1))
        a1 = u32(u32(px + u32(1)) * u32(0x9E3779B1))
        b0 = u32(u32(py * u32(0x85EBCA6B)) + seed)
        b1 = u32(u32(u32(py + u32(1)) * u32(0x85EBCA6B)) + seed)
        h00 = mix(a0 ^ b0)
        h10 = mix(a1 ^ b0)
        h01 = mix(a0 ^ b1)
        h11 = mix(a1 ^ b1)
        ax, ay = _gradient(h00)
        bx, by = _gradient(h10)
        cx, cy = _gradient(h01)
        dx, dy = _gradient(h11)
        n00 = ax * fx + ay * fy + _lift(h00)
        n10 = bx * (fx - one) + by * fy + _lift(h10)
        n01 = cx * fx + cy * (fy - one) + _lift(h01)
        n11 = dx * (fx - one) + dy * (fy - one) + _lift(h11)
        sx, sy = _fade(fx), _fade(fy)
        low = n00 + sx * (n10 - n00)
        row[i] = low + sy * (n01 + sx * (n11 - n01) - low)


@njit(cache=True, nogil=True, parallel=True, fastmath={"contract"})
def scattered_kernel(out, xs, ys, axes, dx, dy, inverse, shift, seeds, amps, mode, gain, sharp):
    """Smooth, billowy or ridged noise: `axes` turns and stretches the place, `dx`, `dy` (m; 1 x 1
    for none) displace it.
    """
    ny, nx = out.shape
    warped = dx.size > 1
    one, zero = np.float32(1), np.float32(0)
    for r in prange(ny):
        x = np.empty(nx)
        y = np.empty(nx)
        row = np.empty(nx, np.float32)
        weight = np.ones(nx, np.float32)
        acc = out[r]
        for i in range(nx):
            px, py = xs[i], ys[r]
            if warped:
                px, py = px + dx[r, i], py + dy[r, i]
            x[i], y[i] = axes[0] * px + axes[1] * py, axes[2] * px + axes[3] * py
            acc[i] = zero
        for o in range(len(seeds)):
            _octave_row(row, x, y, inverse[o], shift[o], seeds[o])
            amp = amps[o]
            if mode == FBM:
                for i in range(nx):
                    acc[i] += amp * row[i]
            elif mode == BILLOW:
                for i in range(nx):
                    acc[i] += amp * (one - _sharpen(one - np.abs(row[i]) * np.float32(1.6), sharp))
            else:
                for i in range(nx):
                    ridge = _sharpen(one - np.abs(row[i]) * np.float32(1.6), sharp) * weight[i]
                    acc[i] += amp * ridge
                    weight[i] = min(one, max(zero, ridge * gain))


@njit(cache=True, nogil=True, parallel=True)
def damped_kernel(out, xs, ys, axes, dx, dy, inverse, shift, seeds, amps, sharp):
    """Post by post, since each octave bends the place of the next."""
    ny, nx = out.shape
    warped = dx.size > 1
    one, zero = np.float32(1), np.float32(0)
    for r in prange(ny):
        for i in range(nx):
            px, py = xs[i], ys[r]
            if warped:
                px, py = px + dx[r, i], py + dy[r, i]
            x, y = axes[0] * px + axes[1] * py, axes[2] * px + axes[3] * py
            total = zero
            weight = one
            sx = zero
            sy = zero
            for o in range(len(seeds)):
                k = inverse[o] / inverse[0]
                v, gx, gy = _point_slope(
                    x * inverse[o] + shift[o] + sx * k, y * inverse[o] + shift[o] + sy * k, seeds[o]
                )
                amp = amps[o] * weight
                total += amp * _sharpen(one - np.abs(v) * np.float32(1.6), sharp)
                sx -= amp * gx * v * np.float32(0.55)
                sy -= amp * gy * v * np.float32(0.55)
                weight *= min(one, max(np.float32(0.05), total * np.float32(1.25)))
            out[r, i] = total


@njit(cache=True, nogil=True, parallel=True)
def cell_kernel(out, xs, ys, axes, dx, dy, inverse, seeds, amps, edge):
    ny, nx = out.shape
    warped = dx.size > 1
    for r in prange(ny):
        for i in range(nx):
            px, py = xs[i], ys[r]
            if warped:
                px, py = px + dx[r, i], py + dy[r, i]
            x, y = axes[0] * px + axes[1] * py, axes[2] * px + axes[3] * py
            total = np.float32(0)
            for o in range(len(seeds)):
                lx, ly = x * inverse[o], y * inverse[o]
                ix, iy = np.int64(np.floor(lx)), np.int64(np.floor(ly))
                near, next_ = 1e9, 1e9
                for b in range(-2, 3):
                    for a in range(-2, 3):
                        gx = max(0.0, abs(ix + a + 0.5 - lx) - 0.5)
                        gy = max(0.0, abs(iy + b + 0.5 - ly) - 0.5)
                        if gx * gx + gy * gy >= next_:
                            continue
                        h = hash3(ix + a, iy + b, seeds[o])
                        ex = ix + a + (h & u32(0xFFFF)) / 65536.0 - lx
                        ey = iy + b + (h >> u32(16)) / 65536.0 - ly
                        d = ex * ex + ey * ey
                        if d < near:
                            near, next_ = d, near
                        elif d < next_:
                            next_ = d
                v = np.sqrt(next_) - np.sqrt(near) if edge else np.sqrt(near)
                total += amps[o] * np.float32(v)
            out[r, i] = total
