"""The light of the core: the sun's place, the air's light, clouds, haze, mist and lamps."""

import datetime as dt
import functools
import json
import tempfile
import unittest
from pathlib import Path

import cv2
import numpy as np
import OpenEXR
from numba import njit

from sow.commands import main
from sow.core.air import clouds
from sow.core.air.atmosphere import (
    PARTS,
    radiance,
    sun_at_ground,
    sun_passes,
    tables_between,
    tables_of,
)
from sow.core.air.base import Over, no_picture
from sow.core.air.card_pictures import PICTURES, picture_of
from sow.core.air.gases import DUST_TAKES, GROUND_KM, SUN_KLUX, Gases
from sow.core.air.harmonics import arriving, directions, irradiance, unfolded
from sow.core.air.haze import haze_of
from sow.core.air.light import Light, sun_direction
from sow.core.air.light_of import clouds_of, daylight, panorama_of
from sow.core.air.mist import mist_depth, packed
from sow.core.air.panorama import RECIPES, laid
from sow.core.air.ready import in_full, lights
from sow.core.air.sky import clear_sky
from sow.core.air.sun import direction, moment_of, sun_place
from sow.core.air.things.card import card
from sow.core.air.things.hollow_mist import HollowMist, hollow_mist
from sow.core.air.things.lamp import Lamp, lamp
from sow.core.air.things.mist_bank import MistBank, mist_bank
from sow.core.air.tries import around, differing, ready_ones, through_the_day
from sow.core.air.white import balance, white_of
from sow.core.cache import Cache
from sow.core.errors import SceneError
from sow.core.formats.folder import open_scene
from sow.core.formats.lightfiles import kelvin_of
from sow.core.formats.panorama import read_card, read_panorama
from sow.core.grow import grow
from sow.core.picture.film import GREY, HIGHEST_STOP, LOWEST_STOP, NORMAL, SIDE, developed, table
from sow.core.scene import read_scene
from sow.core.shots.sketch import lit_ground

TIER = "whole"

GROUND = np.array([0.15, 0.14, 0.09])
AIR = Gases(ground=(0.15, 0.15, 0.1))


@njit(cache=True, nogil=True)
def traced(r_scatter, d_scatter, d_takes, o_takes, albedo, mu, azimuth, sun_up, paths, seed):
    """Light from a direction at the ground by following it backwards, photon by photon: delta
    tracking through round shells of air, the sun asked at every turn (an implementation that shares
    nothing with the core's but the numbers of the air).
    """
    np.random.seed(seed)
    sx, sz = np.sqrt(1 - sun_up * sun_up), sun_up
    most = r_scatter + d_scatter + d_takes + o_takes
    total = 0.0
    for _ in range(paths):
        px, py, pz = 0.0, 0.0, 6360.0005
        flat = np.sqrt(1 - mu * mu)
        dx, dy, dz = flat * np.cos(azimuth), flat * np.sin(azimuth), mu
        weight = 1.0
        for _turn in range(60):
            grounded = False
            while True:
                step = -np.log(1 - np.random.random()) / most
                b = px * dx + py * dy + pz * dz
                c = px * px + py * py + pz * pz
                inner = b * b - c + 6360.0**2
                hit = -b - np.sqrt(inner) if inner > 0 and b < 0 else -1.0
                if hit > 0 and step >= hit:
                    px, py, pz = px + dx * hit, py + dy * hit, pz + dz * hit
                    grounded = True
                    break
                px, py, pz = px + dx * step, py + dy * step, pz + dz * step
                h = np.sqrt(px * px + py * py + pz * pz) - 6360.0
                if h > 100.0:
                    weight = 0.0
                    break
                air = r_scatter * np.exp(-h / 8.0)
                dust = np.exp(-h / 1.2)
                ozone = o_takes * max(0.0, 1 - abs(h - 25) / 15)
                here = air + (d_scatter + d_takes) * dust + ozone
                if np.random.random() < here / most:
                    weight *= (air + d_scatter * dust) / here
                    break
            if weight < 1e-4:
                break
            # how much of the sun arrives here
            r = np.sqrt(px * px + py * py + pz * pz)
            b = px * sx + pz * sz
            inner = b * b - r * r + 6360.0**2
            arrives = 0.0
            if not (inner > 0 and b < 0):
                way = -b + np.sqrt(b * b - r * r + 6460.0**2)
                tau = 0.0
                for k in range(60):
                    t = way * ((k + 0.5) / 60) ** 2
                    dt_ = way * (((k + 1) / 60) ** 2 - (k / 60) ** 2)
                    h = np.sqrt(r * r + 2 * b * t + t * t) - 6360.0
                    tau += dt_ * (
                        r_scatter * np.exp(-h / 8.0)
                        + (d_scatter + d_takes) * np.exp(-h / 1.2)
                        + o_takes * max(0.0, 1 - abs(h - 25) / 15)
                    )
                arrives = np.exp(-tau)
            if grounded:
                nx, ny, nz = px / r, py / r, pz / r
                weight *= albedo
                total += weight / np.pi * arrives * max(0.0, nx * sx + nz * sz)
                # a cosine lobe about the vertical (its tilt over the way is that of the ground)
                a, u = 2 * np.pi * np.random.random(), np.random.random()
                qx, qy, qz = np.sqrt(u) * np.cos(a), np.sqrt(u) * np.sin(a), np.sqrt(1 - u)
                tx, ty, tz = -nz, 0.0, nx
                k = np.sqrt(tx * tx + tz * tz)
                tx, tz = tx / k, tz / k
                bx, by, bz = ny * tz - nz * ty, nz * tx - nx * tz, nx * ty - ny * tx
                dx = qx * tx + qy * bx + qz * nx
                dy = qx * ty + qy * by + qz * ny
                dz = qx * tz + qy * bz + qz * nz
                px, py, pz = px + nx * 1e-4, py + ny * 1e-4, pz + nz * 1e-4
                continue
            thin = air / (air + d_scatter * dust)
            nu = dx * sx + dz * sz
            rayleigh = 3 / (16 * np.pi) * (1 + nu * nu)
            k = 3 / (8 * np.pi) * (1 - 0.64) / 2.64
            mie = k * (1 + nu * nu) / (1.64 - 1.6 * nu) ** 1.5
            total += weight * arrives * (thin * rayleigh + (1 - thin) * mie)
            # the new way: a turn of one lobe, taken evenly from the sphere by its likeliness
            by_air = np.random.random() < thin
            while True:
                c = 2 * np.random.random() - 1
                if by_air:
                    if np.random.random() < (1 + c * c) / 2:
                        break
                elif np.random.random() < (1 + c * c) / (1.64 - 1.6 * c) ** 1.5 / 250.5:
                    break
            s = np.sqrt(1 - c * c)
            a = 2 * np.pi * np.random.random()
            if abs(dz) < 0.99:
                k = np.sqrt(dx * dx + dy * dy)
                ux, uy, uz = dy / k, -dx / k, 0.0
            else:
                ux, uy, uz = 1.0, 0.0, -dx / dz
                k = np.sqrt(ux * ux + uz * uz)
                ux, uz = ux / k, uz / k
            vx, vy, vz = dy * uz - dz * uy, dz * ux - dx * uz, dx * uy - dy * ux
            dx, dy, dz = (
                s * (np.cos(a) * ux + np.sin(a) * vx) + c * dx,
                s * (np.cos(a) * uy + np.sin(a) * vy) + c * dy,
                s * (np.cos(a) * uz + np.sin(a) * vz) + c * dz,
            )
    return total / paths


class Sun(unittest.TestCase):
    def test_against_published_examples(self):
        """Reda & Andreas (2004), NREL/TP-560-34302, table A5.1; and the solstice at the tropic."""
        place = sun_place(39.742476, -105.1786, moment_of("2003-10-17T12:30:30-07:00"))
        self.assertAlmostEqual(place.bearing_deg, 194.34024, delta=0.002)
        self.assertAlmostEqual(place.height_deg, 39.872046, delta=0.002)
        # there refraction is 0.016 degrees at 820 mbar; here it is told for 1010
        self.assertAlmostEqual(place.height_refracted_deg - place.height_deg, 0.019, delta=0.003)
        noon = sun_place(23.4372, 0.0, moment_of("2020-06-20T12:01:48Z"))
        self.assertGreater(noon.height_deg, 89.97)

    def test_north_and_south_and_any_year(self):
        for year in (1950, 2000, 2100):
            for latitude in (-70, -30, 0, 45, 80):
                when = dt.datetime(year, 3, 20, 12, tzinfo=dt.UTC)
                place = sun_place(latitude, 0.0, when)
                # near the equinox noon height is 90 degrees less the latitude
                self.assertAlmostEqual(place.height_deg, 90 - abs(latitude), delta=2.2)

    def test_what_is_no_moment_or_place_is_told(self):
        for latitude, longitude, moment, path in (
            (91, 0, "2026-06-21T15:00:00Z", "latitude"),
            (0, 181, "2026-06-21T15:00:00Z", "longitude"),
            (0, 0, "9999-06-21T15:00:00Z", "moment"),
            (0, 0, "noon", "moment"),
            (0, 0, "2026-06-21T15:00:00", "moment"),
        ):
            with self.assertRaises(SceneError) as caught:
                sun_place(latitude, longitude, moment_of(moment))
            self.assertEqual(caught.exception.path, path)
        with self.assertRaisesRegex(SceneError, "year 9999"):
            read_scene({"light": {"moment": "9999-01-01T00:00:00Z"}})
        with self.assertRaisesRegex(SceneError, "at most 90"):
            read_scene({"light": {"latitude": 91}})

    def test_command_line(self):
        self.assertEqual(main(["sun", "50", "-10", "2026-06-21T15:00:00+02:00"]), 0)
        self.assertEqual(main(["sun", "50", "10", "2026-06-21"]), 2)


class Air(unittest.TestCase):
    @classmethod
    def setUpClass(cls):
        cls.tables = tables_of(AIR)

    def test_radiance_against_photons(self):
        """Within 5 % in the mean of colours at ten directions for three heights of the sun."""
        g = AIR.packed()
        work, light = np.zeros((3, PARTS)), np.zeros(3)
        looked = [(90, 0), (60, 90), (60, 180), (45, 40), (45, 140), (30, 90)]
        looked += [(20, 60), (15, 180), (8, 90), (8, 150)]
        t = self.tables
        for sun in (60, 25, 6):
            up = np.sin(np.deg2rad(sun))
            for height, azimuth in looked:
                mu = np.sin(np.deg2rad(height))
                turn = np.deg2rad(azimuth)
                nu = mu * up + np.cos(np.deg2rad(height)) * np.sqrt(1 - up * up) * np.cos(turn)
                given = t.through, t.scattered, t.flat, t.packed, GROUND_KM + 0.0005
                radiance(*given, mu, up, nu, 40, 1, work, light)
                ratios = []
                for ch in (0, 2):
                    own = g[ch], g[3], DUST_TAKES, g[5 + ch], g[8 + ch]
                    ratios.append(light[ch] / traced(*own, mu, turn, up, 30_000, 7 + sun))
                told = f"sun {sun}, height {height}, azimuth {azimuth}"
                self.assertAlmostEqual(float(np.mean(ratios)), 1, delta=0.05, msg=told)

    def test_the_sky_adds_up(self):
        """Sun and sky on flat ground are what the tables say (1 %)."""
        for height in (70, 30, 10):
            sun = direction(140, height)
            sky = clear_sky(self.tables, sun, 256) / SUN_KLUX
            vectors, solid = directions(*sky.shape[:2])
            upper = np.clip(vectors[..., 2:], 0, None)
            flat = np.einsum("rck,r->k", sky * upper, solid)
            x = (np.sqrt(sun[2]) + np.sqrt(0.32)) / (1 + np.sqrt(0.32)) * 39
            i = int(x)
            told = self.tables.flat[i] * (1 - x + i) + self.tables.flat[i + 1] * (x - i)
            ahead = np.zeros(3)  # the sun with what dust throws straight ahead
            sun_passes(self.tables.through, GROUND_KM + 0.0005, float(sun[2]), ahead)
            beam = sun_at_ground(self.tables, float(sun[2]))
            np.testing.assert_allclose(flat + beam * sun[2], told + ahead * sun[2], rtol=0.01)

    def test_low_suns_are_red_and_dusk_is_blue(self):
        high, low = (sun_at_ground(self.tables, np.sin(np.deg2rad(h))) for h in (60, 3))
        self.assertGreater(low[0] / low[2], 8 * high[0] / high[2])
        dusk = clear_sky(self.tables, direction(270, -5), 64)[2].mean(0)
        self.assertGreater(dusk[2], 1.5 * dusk[0])
        dusty = tables_of(Gases(dust=8))
        self.assertLess(sun_at_ground(dusty, 0.1)[1], 0.5 * sun_at_ground(self.tables, 0.1)[1])

    def test_tables_lie_between_those_of_grey_grounds(self):
        """Over land within half a per cent, and few greys are asked for."""
        asked = []

        def of(gases):
            asked.append(gases.ground)
            return tables_of(gases)

        air = Gases(ground=(0.05, 0.1, 0.3))
        mine, true = tables_between(air, functools.cache(of)), tables_of(air)
        even = np.s_[..., 0, :]  # the mean of all directions
        bright = true.scattered[even] > 1e-6
        off = np.abs(mine.scattered[even] / np.where(bright, true.scattered[even], 1) - 1)
        self.assertLess(off[bright].mean(), 0.003)
        np.testing.assert_allclose(mine.flat[15:], true.flat[15:], rtol=0.006)
        np.testing.assert_array_equal(mine.packed, true.packed)
        self.assertEqual(len(asked), 3)

    def test_harmonics_are_the_integral(self):
        sky = clear_sky(self.tables, direction(200, 35), 128)
        numbers = irradiance(sky)
        vectors, solid = directions(*sky.shape[:2])
        for n in ((0, 0, 1), (0.6, 0, 0.8), (0, -1, 0), (0, 0, -1)):
            facing = np.clip(vectors @ np.array(n, float), 0, None)
            whole = np.einsum("rck,rc,r->k", sky, facing, solid)
            told = arriving(numbers, np.array(n, float))
            np.testing.assert_allclose(told, whole, rtol=0.08)

    def test_an_octahedron_holds_every_direction(self):
        rng = np.random.default_rng(2)
        vectors, _ = directions(64, 128)
        smooth = np.stack(
            [vectors[..., 0] + 1, vectors[..., 1] * vectors[..., 2], vectors[..., 2]], -1
        )
        found = unfolded(smooth, 128)
        d = rng.normal(size=(200, 3))
        d /= np.linalg.norm(d, axis=1, keepdims=True)
        p = d[:, :2] / np.abs(d).sum(1, keepdims=True)
        below = d[:, 2] < 0
        p[below] = ((1 - np.abs(p[:, ::-1])) * np.where(p < 0, -1, 1))[below]
        column, row = ((p * 0.496 + 0.5) * 128).astype(int).T
        told = np.stack([d[:, 0] + 1, d[:, 1] * d[:, 2], d[:, 2]], -1)
        self.assertLess(np.abs(found[row, column] - told).max(), 0.06)

    def test_a_white_plane_receives_what_the_light_says(self):
        light = Light(sun_bearing=180, sun_height=40, clouds=0, veil=0)
        lit = daylight(light, GROUND, 0, 500, Cache())
        flat = np.zeros((33, 33), np.float32)
        white = np.ones((33, 33, 3))
        drawn = lit_ground(flat, 5.0, white, lit)[16, 16] * np.pi
        told = lit.sunlight * lit.sun[2] + arriving(lit.numbers, np.array([0.0, 0.0, 1.0]))
        np.testing.assert_allclose(drawn, told, rtol=0.02)


class Whole(unittest.TestCase):
    def test_the_same_twice_and_finer_is_the_same_light(self):
        light = Light(clouds=60, veil=30, sun_height=20)
        one, two = (daylight(light, GROUND, 0, 900, Cache(), 128) for _ in range(2))
        np.testing.assert_array_equal(one.sky, two.sky)
        fine = daylight(light, GROUND, 0, 900, Cache(), 256)
        np.testing.assert_allclose(fine.numbers[0], one.numbers[0], rtol=0.06)
        self.assertEqual(fine.unit_kcd, one.unit_kcd)

    def test_exposure_and_white_are_not_light(self):
        cache = Cache()
        daylight(Light(), GROUND, 0, 500, cache, 128)
        made = cache.made
        other = daylight(Light(exposure=2, white_k=4000), GROUND, 0, 500, cache, 128)
        self.assertEqual(cache.made, made)
        self.assertGreater(other.exposure[2], 4 * 1.15)  # a low white makes it blue

    def test_clouds_cover_as_much_as_is_asked_and_shade_the_land(self):
        sun = direction(200, 45)
        hidden = []
        for amount in (10, 40, 80):
            found = clouds_of(Light(clouds=amount, veil=0))
            self.assertEqual([c.kind for c in found], [clouds.HEAPS])
            seen = clouds.seen(found[0], sun, 64)
            high = seen[:40, :, 3]
            hidden.append(float(1 - high.mean()))
            shade = clouds.shade(found, sun, 4000)
            self.assertTrue((shade > 0).all() and (shade <= 1).all())
            self.assertAlmostEqual(float((shade < 0.8).mean()), amount / 100, delta=0.3)
        self.assertTrue(hidden[0] < hidden[1] < hidden[2])
        self.assertGreater(hidden[2], 0.5)
        overcast = daylight(Light(clouds=0, layer=100), GROUND, 0, 500, Cache(), 128)
        self.assertLess(float(overcast.shade.mean()), 0.35)

    def test_a_layer_ends_in_a_bright_strip(self):
        light = Light(clouds=0, veil=0, layer=100, layer_ends_m=4000, sun_height=5)
        [c] = clouds_of(light)
        seen = clouds.seen(c, sun_direction(light), 64)[..., 3]
        columns = seen.shape[1]
        to_sun = int(light.sun_bearing / 360 * columns)
        behind = (to_sun + columns // 2) % columns
        self.assertGreater(seen[58, to_sun], 0.9)
        self.assertLess(seen[58, behind], 0.2)

    def test_what_cannot_be_is_left_to_no_kernel(self):
        for values in ({"cloud_size_m": 0}, {"sun_size": 0}, {"haze_m": 0}, {"layer": 101}):
            with self.assertRaises(SceneError):
                read_scene({"light": values})

    def test_haze_leaves_a_fiftieth_at_its_distance(self):
        haze = haze_of(Light(haze_m=3000, air=0, dust=0), 0)
        level = haze.passes(0.0, np.zeros(2), np.array([0.0, 3000.0]))[:, 0]
        np.testing.assert_allclose(level, [1, 0.02], atol=2e-4)
        high = haze.passes(1500.0, np.full(1, 1500.0), np.array([3000.0]))
        self.assertGreater(high[0, 0], 0.8)
        begins = haze_of(Light(haze_m=3000, haze_from_m=1000, air=0, dust=0), 0)
        self.assertEqual(float(begins.passes(0.0, np.zeros(1), np.array([900.0]))[0, 0]), 1)

    def test_warm_light_comes_out_white(self):
        for kelvin in (2800, 4500, 6500, 12000):
            shown = white_of(kelvin) * balance(kelvin)
            np.testing.assert_allclose(shown, np.full(3, shown.mean()), rtol=1e-6)
            self.assertAlmostEqual(kelvin_of(white_of(kelvin)) / kelvin, 1, delta=0.04)

    def test_the_film_is_its_table(self):
        light = np.array([[0.02, 0.05, 0.1], [0.5, 0.4, 0.2], [3, 2.5, 2], [12, 9, 7]])
        shown = developed(light)
        at = (
            (np.log2(light * NORMAL / GREY) - LOWEST_STOP)
            / (HIGHEST_STOP - LOWEST_STOP)
            * (SIDE - 1)
        )
        held = table().astype(float) / 255
        for k, (r, g, b) in enumerate(at):
            corner = np.floor([b, g, r]).astype(int)
            part = np.array([b, g, r]) - corner
            total = 0
            for dz in (0, 1):
                for dy in (0, 1):
                    for dx in (0, 1):
                        w = np.prod(np.abs([1 - dz, 1 - dy, 1 - dx] - part))
                        z, y, x = np.minimum(corner + [dz, dy, dx], SIDE - 1)
                        total = total + w * held[z, y, x, :3]
            np.testing.assert_allclose(total, shown[k], atol=0.012)


class Ready(unittest.TestCase):
    def test_twelve_that_differ(self):
        self.assertGreaterEqual(len(lights), 12)
        told = {json.dumps(x.values, sort_keys=True) for x in ready_ones(Light())}
        self.assertEqual(len(told), len(lights))
        for x in ready_ones(Light(wind_from=77)):
            light = Light.model_validate(x.values)
            self.assertEqual(light.wind_from, 77)
            self.assertEqual(differing(light), [])
        changed = Light.model_validate({**in_full(lights["dust"]), "exposure": 1, "haze_m": 50})
        self.assertEqual(differing(changed), ["Exposure", "Haze: seen to"])

    def test_a_day_goes_from_light_to_light(self):
        day = through_the_day(Light(latitude=50, longitude=10))
        self.assertEqual(len(day), 12)
        heights = [sun_direction(Light.model_validate(x.values))[2] for x in day]
        self.assertLess(max(heights[0], heights[-1]), 0.12)
        self.assertIn(int(np.argmax(heights)), (5, 6))
        with self.assertRaisesRegex(SceneError, "does not rise"):
            through_the_day(Light(latitude=80, moment="2026-12-21T12:00:00Z"))

    def test_others_around_this_one(self):
        first, again, others = around(Light()), around(Light()), around(Light(), 0.6, 1)
        self.assertEqual(first, again)
        self.assertNotEqual(first[3], others[3])
        self.assertEqual(first[0].values, Light().model_dump(mode="json"))
        for x in first:
            Light.model_validate(x.values)


class InTheAir(unittest.TestCase):
    @classmethod
    def setUpClass(cls):
        n = 65
        y, x = np.mgrid[0:n, 0:n]
        valley = (np.abs(x - 32) * 1.5).astype(np.float32)  # 48 m over 160 m to either side
        xs = np.arange(n) * 5.0
        cls.over = Over(valley, xs, xs[::-1].copy(), [])

    def test_mist_fills_the_valley_and_not_the_hill(self):
        [mist] = hollow_mist(
            HollowMist(id="m", name="m", depth_m=10, reach_m=200, broken=0, seen_m=50), self.over
        )
        maps, packs = packed([mist])
        floor = mist_depth(maps, packs, 160.0, 20.0, 2.0, 160.0, 120.0, 2.0)
        self.assertAlmostEqual(floor, 3.912 / 50 * 100, delta=0.25 * 3.912 / 50 * 100)
        hill = mist_depth(maps, packs, 20.0, 20.0, 44.0, 20.0, 120.0, 44.0)
        self.assertLess(hill, 0.02)

    def test_a_bank_keeps_to_its_bounds_and_base(self):
        bank = MistBank(
            id="b", name="b", east_m=160, north_m=160, width_m=60, depth_m=60, broken=0, seen_m=30
        )
        [mist] = mist_bank(bank, self.over)
        maps, packs = packed([mist])
        across = mist_depth(maps, packs, 100.0, 160.0, 3.0, 220.0, 160.0, 3.0)
        beside = mist_depth(maps, packs, 100.0, 240.0, 3.0, 220.0, 240.0, 3.0)
        above = mist_depth(maps, packs, 100.0, 160.0, 40.0, 220.0, 160.0, 40.0)
        self.assertGreater(across, 2)
        self.assertEqual((beside, above), (0, 0))
        half = mist_depth(maps, packs, 100.0, 160.0, 3.0, 160.0, 160.0, 3.0)
        self.assertAlmostEqual(half, across / 2, delta=0.1 * across)

    def test_an_area_bounds_a_bank(self):
        area = {"kind": "area", "id": "a", "name": "a", "smooth": False}
        area["points"] = [[100, 100], [200, 100], [200, 140], [100, 140]]
        scene = read_scene(
            {"marks": [area], "air": [{"kind": "mist-bank", "id": "b", "name": "b", "area": "a"}]}
        )
        over = Over(self.over.heights, self.over.xs, self.over.ys, scene.marks)
        [mist] = mist_bank(scene.air[0], over)
        x = np.linspace(mist.bounds[0], mist.bounds[2], 128)
        y = np.linspace(mist.bounds[3], mist.bounds[1], 128)
        rows = (y < 95) | (y > 145)
        self.assertEqual(float(mist.cover[rows].max()), 0)
        self.assertGreater(float(mist.cover[np.ix_(~rows, (x > 110) & (x < 190))].max()), 0.5)

    def test_lamps_shine_what_they_are_told(self):
        [bulb] = lamp(Lamp(id="l", name="l", east_m=160, north_m=160, lumens=1000), self.over)
        told = float(np.array(bulb.kcd) @ (0.2126, 0.7152, 0.0722)) * 1000
        self.assertAlmostEqual(told, 1000 / (4 * np.pi), delta=0.5)
        self.assertEqual(bulb.place[2], 2.2)
        [spot] = lamp(
            Lamp(
                id="l",
                name="l",
                east_m=100,
                north_m=160,
                spread=20,
                aim_east_m=110,
                aim_north_m=160,
                aim_over_m=2.2,
            ),
            self.over,
        )
        self.assertGreater(spot.aim[0], 0.7)
        self.assertGreater(max(spot.kcd), 20 * max(bulb.kcd))
        for values in ({"lumens": 0}, {"over_m": -1}, {"spread": 0}):
            with self.assertRaises(SceneError):
                read_scene({"air": [{"kind": "lamp", "id": "l", "name": "l", **values}]})
        with self.assertRaises(SceneError):
            read_scene({"air": [{"kind": "mist-bank", "id": "b", "name": "b", "width_m": 0}]})


class Cards(unittest.TestCase):
    def test_cards_that_ship_have_a_rim_and_a_size(self):
        for name, found in PICTURES.items():
            sheet = picture_of(name, no_picture)
            self.assertEqual(sheet.shape[:2], found.size[::-1])
            cover = sheet[..., 3]
            self.assertEqual((cover.min(), cover.max() > 200), (0, True), name)
            np.testing.assert_array_equal(sheet, picture_of(name, no_picture))
        scene = read_scene(
            {"air": [{"kind": "card", "id": "c", "name": "c", "picture": "ready-trees"}]}
        )
        flat = Over(np.full((5, 5), 7.0), np.arange(5.0), np.arange(5.0)[::-1], [])
        [stands] = card(scene.air[0], flat)
        self.assertEqual((stands.place[2], stands.width_m), (7, 30))

    def test_what_is_no_panorama_and_no_card_is_told(self):
        hdr = cv2.imencode(".hdr", np.ones((64, 128, 3), np.float32))[1].tobytes()
        png = cv2.imencode(".png", np.full((64, 128, 3), 200, np.uint8))[1].tobytes()
        light, told = read_panorama(png, "named.hdr")
        self.assertIn("plain picture in spite of its name", told[0])
        self.assertAlmostEqual(float(light.mean()), (200 / 255) ** 2.2, delta=0.02)
        self.assertEqual(read_panorama(hdr, "a.hdr")[0].shape, (64, 128, 3))
        with tempfile.TemporaryDirectory() as folder:
            for value, words in (
                (np.nan, "no numbers"),
                (np.inf, "no numbers"),
                (-1.0, "below nought"),
                (1e9, "no light that a sky has"),
            ):
                sky = np.ones((32, 64, 3), np.float32)
                sky[3, 5] = value
                path = Path(folder) / "a.exr"
                kind = {"type": OpenEXR.scanlineimage}
                OpenEXR.File(kind, {"RGB": sky}).write(str(path))
                with self.assertRaisesRegex(SceneError, words):
                    read_panorama(path.read_bytes(), "a.exr")
            whole = path.read_bytes()
        wide = cv2.imencode(".png", np.zeros((2, 20000), np.uint8))[1].tobytes()
        for data, words in (
            (whole[:200], "damaged"),
            (hdr[:40], "damaged|twice"),
            (png[:40], "damaged"),
            (wide, "16384 across"),
            (b"hello", "no picture that is known"),
            (cv2.imencode(".hdr", np.ones((64, 64, 3), np.float32))[1].tobytes(), "twice as wide"),
        ):
            with self.assertRaisesRegex(SceneError, words):
                read_panorama(data, "a.hdr")
        clear = cv2.imencode(".png", np.zeros((8, 8, 4), np.uint8))[1].tobytes()
        with self.assertRaisesRegex(SceneError, "transparent all over"):
            read_card(clear, "c.png")
        with self.assertRaisesRegex(SceneError, "no picture"):
            read_card(b"x", "c.png")


class Panoramas(unittest.TestCase):
    def test_its_sun_is_found_turned_and_taken_out(self):
        sky = np.full((64, 128, 3), 0.4, np.float32)
        sky[20, 96] = 3000
        for turn in (0, 45, 200):
            found = laid(Light(panorama_turn=turn), sky, 64)
            self.assertAlmostEqual(found.bearing_deg, (271.4 + turn) % 360, delta=0.5)
            self.assertAlmostEqual(found.height_deg, 32.3, delta=0.5)
            self.assertLess(found.sky.max(), 40 * found.sky.mean())
            self.assertGreater(found.sunlight[0], 0)
        brighter = laid(Light(panorama_ev=1), sky, 64)
        np.testing.assert_allclose(brighter.sky, 2 * laid(Light(), sky, 64).sky, rtol=1e-6)
        raised = laid(Light(panorama_level=10), sky, 64)
        self.assertAlmostEqual(raised.height_deg, 42.3, delta=1.5)

    def test_those_that_ship_light_the_land(self):
        for name in RECIPES:
            light = Light(panorama=name, sun_bearing=RECIPES[name][1]["sun_bearing"])
            picture = panorama_of(light, no_picture)
            lit = daylight(light, GROUND, 0, 500, Cache(), 128, picture)
            self.assertTrue(np.isfinite(lit.sky).all())
            self.assertGreater(float(lit.numbers[0].min()), 0.05)
            self.assertEqual(float(lit.shade.min()), 1)  # its clouds are in the picture alone


class Out(unittest.TestCase):
    def test_files_of_the_light(self):
        document = {
            "plot": {"width_m": 200, "depth_m": 200, "posts": 65},
            "light": {"sun_bearing": 90, "sun_height": 30},
            "air": [{"kind": "lamp", "id": "l", "name": "l", "east_m": 50, "north_m": 60}],
        }
        with tempfile.TemporaryDirectory() as folder:
            file = Path(folder) / "scene.json"
            file.write_text(json.dumps({"format": "sow-scene-1", "name": "x", **document}))
            out = Path(folder) / "out"
            grow(*open_scene(file), out, 65, 128, files={"light": {"sky_px": 256}})
            facts = json.loads((out / "light" / "light.json").read_text())
            np.testing.assert_allclose(facts["sun"]["to_it"], direction(90, 30), atol=1e-5)
            self.assertTrue(4000 < facts["sun"]["kelvin"] < 6500)
            self.assertEqual(len(facts["lamps"]), 1)
            hdr = cv2.imread(str(out / "light" / "sky.hdr"), cv2.IMREAD_UNCHANGED)[..., ::-1]
            with OpenEXR.File(str(out / "light" / "sky.exr")) as exr:
                sky = exr.channels()["RGB"].pixels.astype(float)
                self.assertIn("chromaticities", exr.header())
            self.assertEqual(sky.shape, (128, 256, 3))
            np.testing.assert_allclose(hdr, sky, rtol=0.02, atol=0.02)
            import pygltflib

            glb = pygltflib.GLTF2().load(str(out / "scene.glb"))
            told = glb.extensions["KHR_lights_punctual"]["lights"]
            self.assertEqual([x["type"] for x in told], ["directional", "point"])
            klux = facts["sun"]["klux_on_a_plane_turned_to_it"]
            self.assertAlmostEqual(told[0]["intensity"], max(klux) * 1000, delta=1)
            node = next(n for n in glb.nodes if n.name == "Sun")
            x, y, z, w = node.rotation
            # what was -z points from the sun to the land
            points = [-2 * (x * z + y * w), -2 * (y * z - x * w), -(1 - 2 * (x * x + y * y))]
            east, north, up = direction(90, 30)
            np.testing.assert_allclose(points, [-east, -up, north], atol=1e-6)


if __name__ == "__main__":
    unittest.main()
