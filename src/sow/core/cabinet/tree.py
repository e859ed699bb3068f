"""Broad-leaved trees: a branching skeleton with tapered limbs and leafy twigs."""
import numpy as np

from .draw import add_cards, empty_sheet
from .kind import Kind, Shape, kinds
from .leaf import BARK_BOX, LEAF_BOX, bark, lay, sprig
from .mesh import Mesh, card, far_card, frame, tube


def _limb(rng, start, direction, length, radius, segments, wander, rise):
    """A path that wanders and bends upwards (or down, with a negative rise), with its tapering radii."""
    path, d = [np.asarray(start, float)], np.asarray(direction, float)
    for _ in range(segments):
        d = d + rng.normal(0, wander, 3) + (0, 0, rise / segments)
        d /= np.linalg.norm(d)
        path.append(path[-1] + d * length / segments)
    return np.array(path), radius * np.linspace(1, 0.25, segments + 1) ** 0.8


def _along(path, t):
    f = t * (len(path) - 1)
    i = min(int(f), len(path) - 2)
    d = path[i + 1] - path[i]
    return path[i] + d * (f - i), d / np.linalg.norm(d)


def grow(seed, height, crown_from, spread, branches, twigs, wander, droop, leaf_m, sides, keep=1.0, stems=1, light=1.0):
    """A tree mesh. Lengths in m; `keep` is the share of leafy twigs kept, the rest made up by larger ones."""
    rng = np.random.default_rng(seed)
    parts, leaves = [], []
    grow_leaf = leaf_m / np.sqrt(keep)
    for s in range(stems):
        lean = rng.normal(0, 0.05 + 0.12 * (stems > 1), 2)
        tall = height * rng.uniform(0.85, 1) if s else height
        base = np.array([rng.normal(0, 0.15), rng.normal(0, 0.15), -0.3]) * (stems > 1) + (0, 0, -0.15)
        trunk, radii = _limb(rng, base, (lean[0], lean[1], 1), tall * 0.93, 0.022 * tall + 0.02, 9, wander * 0.5, 0.15)
        radii[0] *= 1.5
        parts.append(tube(trunk, radii, sides, (1, 1, 1), BARK_BOX, 2.2))
        for b in range(branches):
            t = crown_from + (0.98 - crown_from) * (b + rng.uniform(0, 0.9)) / branches
            at, up = _along(trunk, t)
            turn = b * 2.39996 + rng.normal(0, 0.3)
            side = np.array([np.cos(turn), np.sin(turn), 0])
            full = np.sin(np.pi * np.clip((t - crown_from) / (1 - crown_from) * 0.8 + 0.2, 0, 1)) ** 0.7
            length = spread * tall * full * rng.uniform(0.7, 1.1) + 0.25
            d = side + up * rng.uniform(0.35, 1.0)
            limb, lr = _limb(rng, at, d / np.linalg.norm(d), length, 0.3 * np.interp(t, np.linspace(0, 1, 10), radii) + 0.004,
                             5, wander, droop)
            if length > 0.4:
                parts.append(tube(limb, lr, max(3, sides - 3), (0.8, 0.78, 0.75), BARK_BOX, 2.2))
            for k in range(twigs):
                p, along = _along(limb, 0.3 + 0.7 * (k + rng.uniform(0, 1)) / twigs)
                draw = rng.uniform()
                d = along * 0.6 + rng.normal(0, 0.75, 3) + (0, 0, 0.25 * np.sign(droop + 0.01))
                d /= np.linalg.norm(d)
                twist = rng.uniform(0, np.pi)
                size = grow_leaf * rng.uniform(0.75, 1.25)
                tone = rng.uniform(0.75, 1.2)
                if draw > keep:
                    continue
                a, c = frame(d)
                leaves.append((p, d, a * np.cos(twist) + c * np.sin(twist), size, tone))
    points = np.array([l[0] for l in leaves])
    centre = points.mean(0) - (0, 0, 0.1 * height)
    reach = np.linalg.norm(points - centre, axis=1).max()
    for p, d, side, size, tone in leaves:
        out = (p + d * size * 0.5 - centre) / reach
        inner = 0.3 + 0.7 * np.clip(np.linalg.norm(out), 0, 1)  # leaves within the crown stand in shade
        normal = out + (0, 0, 0.35)
        normal /= max(np.linalg.norm(normal), 1e-6)
        parts.append(card(p + d * size * 0.45, side * size * 0.5, d * size * 0.5, LEAF_BOX, np.full(3, tone * inner * light), normal))
    return Mesh.joined(parts)


def tree(name, label, height, colour, bark_colours, rings=False, leaf=dict(), variants=3, **form):
    """Registers a kind of tree. `form` goes to `grow`."""

    def make():
        sheet = lay(empty_sheet(), sprig(colour, 7, **leaf), bark(*bark_colours, 5, rings))
        near = [grow(100 * v + 1, height * (1, 0.86, 1.1, 0.95)[v], sides=7, **form) for v in range(variants)]
        mid = [grow(100 * v + 1, height * (1, 0.86, 1.1, 0.95)[v], sides=4, keep=0.3, **form) for v in range(variants)]
        width = 2 * max(np.abs(m.positions[:, :2]).max() for m in near) * 1.02
        top = max(m.positions[:, 2].max() for m in near) * 1.02
        add_cards(sheet, near, width, top)
        return Shape([[near[v], mid[v], far_card(v, width, top)] for v in range(variants)], sheet, (5 * height, 13 * height))

    reach = form["spread"] * height
    kinds[name] = Kind(name, label, "tree", height, reach, 2.2 * reach * reach, tuple(0.62 * c for c in colour), range(variants), make)


tree("birch", "Birch", 8.5, (0.056, 0.08, 0.02), ((0.62, 0.58, 0.52), (0.07, 0.06, 0.055)), rings=True,
     leaf=dict(leaves=20, length=44, breadth=34), crown_from=0.2, spread=0.3, branches=30, twigs=24, wander=0.13,
     droop=-0.3, leaf_m=0.86)
tree("rowan", "Rowan", 6.0, (0.042, 0.062, 0.02), ((0.2, 0.18, 0.155), (0.05, 0.045, 0.04)), stems=2,
     leaf=dict(leaves=24, length=46, breadth=17, pairs=True, berries=(0.45, 0.04, 0.01)), crown_from=0.22, spread=0.36,
     branches=20, twigs=24, wander=0.16, droop=0.45, leaf_m=0.68)
tree("thorn", "Hawthorn", 4.0, (0.036, 0.05, 0.017), ((0.16, 0.14, 0.12), (0.04, 0.035, 0.03)), stems=2,
     leaf=dict(leaves=30, length=30, breadth=24), crown_from=0.18, spread=0.46, branches=18, twigs=26, wander=0.26,
     droop=0.2, leaf_m=0.55)
