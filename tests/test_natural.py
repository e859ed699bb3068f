"""How a picture's light is spread beside photographs of nature."""

import unittest

import numpy as np

from sow.core.judge.natural import natural

TIER = "fast"


def noise(fall: float, shape=(300, 420), stretch: float = 1.0, spread: float = 0.6):
    """Light whose log luminance has power that falls so, once across and once up."""
    rng = np.random.default_rng(3)
    fy, fx = np.meshgrid(*(np.fft.fftfreq(n) for n in shape), indexing="ij")
    f = np.hypot(fx, fy * stretch)
    f[0, 0] = 1
    wave = np.fft.ifft2(np.fft.fft2(rng.normal(size=shape)) * f ** (-fall / 2)).real
    wave *= spread / wave.std()
    return np.exp(wave)[..., None] * np.array([0.9, 1.0, 0.8])


class Spectra(unittest.TestCase):
    def test_the_fall_that_was_made_is_found(self):
        for fall in (1.2, 2.0, 2.8):
            told = natural(noise(fall))
            for found in (told.fall, told.fall_across, told.fall_up):
                self.assertAlmostEqual(found, fall, delta=0.2)
            self.assertAlmostEqual(told.spread, 0.6, delta=0.02)
            self.assertEqual(told.usual, fall == 2.0)

    def test_exposure_changes_nothing(self):
        light = noise(2.0)
        self.assertAlmostEqual(natural(light).fall, natural(8 * light).fall, places=6)

    def test_black_and_even_pictures_are_measured_too(self):
        for light in (np.zeros((64, 64, 3)), np.full((64, 64, 3), 0.4)):
            self.assertAlmostEqual(natural(light).spread, 0)


if __name__ == "__main__":
    unittest.main()
