"""What ground shows below the texels of its textures, and leaves in fewer triangles."""

import unittest
from dataclasses import replace

import numpy as np

from sow.core.cabinet import grounds
from sow.core.cabinet.growth.foliage import lobed, pinnate, plain, pointed, rhombic
from sow.core.surface.grain import STEP, grain_of
from sow.core.surface.material import Material
from sow.core.surface.textured import TEXELS, Maps, maps_of, taken

TIER = "fast"

NAMES = ("sand", "granite", "mud")
WIDE_M = 2.0


def material(name: str) -> Material:
    return Material(id="m", name="m", ground=name, size_m=WIDE_M)


class NoGrain(Maps):
    """The same textures without what lies below their texels."""

    @property
    def grain(self):
        none = np.zeros_like(self.tinted)
        return replace(grain_of(none, none), colour=none, detail=none)


def both(name: str, u: np.ndarray, v: np.ndarray, fine_m: float):
    """Colour and detail at places, with grain and without."""
    maps = maps_of(grounds[name])
    bare = NoGrain(maps.tinted, maps.leaning)
    return [taken(material(name), grounds[name], m, u, v, fine_m) for m in (maps, bare)]


class Grain(unittest.TestCase):
    def test_it_has_no_mean_and_no_broad_features(self):
        for name in NAMES:
            maps = maps_of(grounds[name])
            fine = maps.grain.colour[..., :3].mean(-1)
            self.assertLess(abs(float(fine.mean())), 0.02, name)
            power = np.abs(np.fft.rfft2(fine - fine.mean())) ** 2
            turns = np.hypot(
                np.fft.fftfreq(len(fine))[:, None], np.fft.rfftfreq(fine.shape[1])[None]
            )
            broad = power[turns < 1 / 60].sum() / power.sum()
            self.assertLess(float(broad), 0.05, name)

    def test_colour_keeps_its_mean_and_gains_what_is_finer_than_a_texel(self):
        n = 256
        texel = WIDE_M / TEXELS
        fine = texel / STEP
        u, v = (a.ravel() for a in np.meshgrid(np.arange(n) * fine, np.arange(n) * fine))
        for name in NAMES:
            (rich, bent), (bare, plainly) = both(name, u, v, fine)
            ratio = rich[:, :3].mean() / bare[:, :3].mean()
            self.assertAlmostEqual(float(ratio), 1, delta=0.05, msg=name)
            within = lambda c: np.diff(c[:, :3].mean(1).reshape(n, n), axis=1).std()
            self.assertGreater(within(rich), 1.5 * within(bare), name)
            self.assertTrue((rich >= 0).all() and (bent[:, 2:] <= 1).all())
            self.assertGreater(np.abs(bent[:, :2] - plainly[:, :2]).mean(), 1e-3)

    def test_what_is_not_so_near_stays_as_it_is(self):
        rng = np.random.default_rng(1)
        u, v = rng.uniform(0, 40, (2, 500))
        (rich, bent), (bare, plainly) = both("sand", u, v, WIDE_M / TEXELS)
        np.testing.assert_array_equal(rich, bare)
        np.testing.assert_array_equal(bent, plainly)


class PlainLeaves(unittest.TestCase):
    def test_a_plain_leaf_is_as_long_and_as_large(self):
        for leaf in (lobed(0.1, 0.058, 3), pointed(0.085, 0.07, 0.55, 0.2), lobed(0.09, 0.05, 4)):
            few = plain(leaf)
            self.assertEqual(len(few.faces), 4)
            self.assertEqual(few.long_m, leaf.long_m)
            self.assertAlmostEqual(few.area_m2() / leaf.area_m2(), 1, delta=0.05)

    def test_what_is_plain_or_of_leaflets_stays(self):
        for leaf in (rhombic(0.05, 0.03), pinnate(0.15, 0.045, 0.016, 6)):
            self.assertIs(plain(leaf), leaf)


if __name__ == "__main__":
    unittest.main()
