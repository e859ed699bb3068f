"""Meshes and pictures of the cabinet, tiles of rasters, and instances as the page gets them."""

import os
import tempfile
import unittest
import unittest.mock
from pathlib import Path

import numpy as np

from sow.core.cabinet import grounds, kinds
from sow.core.cabinet.draw import bleed, picture
from sow.core.cabinet.kind import linear, srgb_bytes
from sow.core.cabinet.mesh import (
    Mesh,
    card,
    far_card,
    frame,
    icosphere,
    smooth_normals,
    tube,
    turned,
)
from sow.core.cabinet.portrait import portrait
from sow.core.planting.plants import Plants
from sow.core.shared import VARIANTS
from sow.store.rasters import pack, unpack
from sow.web.products import instances_of, tile_size

TIER = "whole"


class Meshes(unittest.TestCase):
    def test_a_ball_is_round_closed_and_faces_outwards(self):
        for times in (0, 2, 3):
            v, f = icosphere(times)
            self.assertEqual(len(f), 20 * 4**times)
            np.testing.assert_allclose(np.linalg.norm(v, axis=1), 1, atol=1e-9)
            edges = np.sort(np.concatenate([f[:, [0, 1]], f[:, [1, 2]], f[:, [2, 0]]]), axis=1)
            self.assertTrue(
                (np.unique(edges, axis=0, return_counts=True)[1] == 2).all()
            )  # every edge has two faces
            self.assertGreater(
                float((smooth_normals(v.astype(np.float32), f) * v).sum(1).min()), 0.9
            )

    def test_a_tube_keeps_its_radius_and_frames_are_square(self):
        path = np.array([[0, 0, 0], [0, 0, 1], [0, 0, 2.0]])
        mesh = tube(path, np.array([0.3, 0.2, 0.1]), 8, (1, 1, 1), (0, 0, 1, 1))
        away = np.hypot(mesh.positions[:, 0], mesh.positions[:, 1])
        np.testing.assert_allclose(np.unique(away.round(5)), [0.1, 0.2, 0.3], atol=1e-4)
        for d in np.random.default_rng(1).normal(size=(20, 3)):
            d /= np.linalg.norm(d)
            a, b = frame(d)
            np.testing.assert_allclose(
                [a @ b, a @ d, b @ d, a @ a, b @ b], [0, 0, 0, 1, 1], atol=1e-9
            )

    def test_joining_and_moving(self):
        one = card((0, 0, 0), (1, 0, 0), (0, 0, 1), (0, 0, 1, 1), (1, 1, 1), (0, -1, 0))
        two = Mesh.joined([one, one.moved(turned(np.pi / 2), (5, 0, 0))])
        self.assertEqual((len(two.positions), int(two.faces.max())), (8, 7))
        np.testing.assert_allclose(two.normals[4:], np.tile((1, 0, 0), (4, 1)), atol=1e-6)
        self.assertAlmostEqual(float(two.positions[4:, 0].mean()), 5, places=5)

    def test_far_cards_of_variants_do_not_share_their_picture(self):
        boxes = [far_card(v, 1, 2).uv for v in range(4)]
        corners = {tuple(b.min(0).round(2)) for b in boxes}
        self.assertEqual(len(corners), 4)
        self.assertTrue(all((b[:, 0] > 0.5).all() for b in boxes))


class EveryKind(unittest.TestCase):
    def test_is_whole_in_every_look(self):
        """Each number that a drawing kernel reads is there: it does not ask how long arrays are."""
        seen: dict[str, int] = {}  # each look of a recipe on one kind of it, in turn
        for name, kind in kinds.items():
            recipe = f"{kind.family} {kind.make.__qualname__}"
            turn = seen[recipe] = seen.get(recipe, -1) + 1
            if turn >= len(kind.looks):
                continue  # its recipe was seen in every look
            for look in {kind.looks[turn % len(kind.looks)]}:
                with self.subTest(name, look=look):
                    shape = kind.shape(look)
                    self.assertEqual(shape.sheet.shape[2], 4)
                    self.assertEqual(len(shape.levels), len(kind.variants))
                    self.assertIn(len(shape.casts), (0, len(kind.variants)))
                    for mesh in (*(m for levels in shape.levels for m in levels), *shape.casts):
                        n = len(mesh.positions)
                        self.assertEqual(mesh.normals.shape, (n, 3))
                        self.assertEqual(mesh.colour.shape, (n, 3))
                        self.assertEqual(mesh.uv.shape, (n, 2))
                        self.assertLess(int(mesh.faces.max()), n)
                        self.assertTrue(np.isfinite(mesh.positions).all())
                        self.assertGreaterEqual(float(mesh.colour.min()), 0)

    def test_a_far_shadow_is_as_wide_and_dense_as_its_tree_by_fewer_triangles(self):
        for name in ("birch", "oak", "pine", "spruce"):
            shape = kinds[name].shape()
            side = 1.05 * float(np.abs(shape.levels[0][0].positions).max())
            for (_near, middle, _card), casts in zip(shape.levels, shape.casts):
                self.assertLess(len(casts.faces), 0.6 * len(middle.faces), name)
                drawn = [
                    picture(m, shape.sheet, 96, 2 * side, side)[..., 3] > 100
                    for m in (middle, casts)
                ]
                shares = [float(d.mean()) for d in drawn]
                self.assertLess(abs(shares[1] / shares[0] - 1), 0.35, name)
                for axis in (0, 1):
                    spans = [float(np.ptp(np.nonzero(d.any(axis))[0])) for d in drawn]
                    self.assertLess(abs(spans[1] / spans[0] - 1), 0.35, name)


class Pictures(unittest.TestCase):
    def test_light_goes_there_and_back(self):
        codes = np.arange(256, dtype=np.uint8)
        np.testing.assert_array_equal(srgb_bytes(linear(codes)), codes)

    def test_a_portrait_is_kept_with_its_shape(self):
        with (
            tempfile.TemporaryDirectory() as folder,
            unittest.mock.patch.dict(os.environ, {"SOW_CACHE": folder}),
        ):
            drawn = portrait(kinds["flagstone"])
            self.assertGreater(int((drawn[..., 3] > 0).sum()), 100)
            names = {p.name.rpartition("-")[0] for p in Path(folder).iterdir()}
            self.assertIn("portrait-flagstone-summer", names)

    def test_a_card_is_drawn_where_it_stands(self):
        square = card(
            (0.25, 0, 0.5), (0.25, 0, 0), (0, 0, 0.25), (-1, -1, -1, -1), (1, 0, 0), (0, 0, 1)
        )
        drawn = picture(square, np.zeros((4, 4, 4), np.uint8), 64, 1.0, 1.0)
        seen = drawn[..., 3] > 128
        self.assertAlmostEqual(seen.mean(), 0.25, delta=0.02)
        self.assertFalse(seen[:, :30].any())
        self.assertGreater(int(drawn[32, 48, 0]), 200)
        self.assertEqual(int(drawn[32, 48, 1]), 0)

    def test_clear_parts_take_their_neighbours_colour(self):
        cover = np.zeros((20, 20))
        cover[8:12, 8:12] = 1
        colour = np.where(cover[..., None] > 0, np.array((0.2, 0.6, 0.1)), 0.0)
        np.testing.assert_allclose(bleed(colour, cover)[4, 9], (0.2, 0.6, 0.1))

    def test_detail_pictures_hold_unit_normals(self):
        for g in (g for g in grounds.values() if g.family == g.name):
            n = g.maps()[1][..., :2] / 255 * 2 - 1
            self.assertLessEqual(float(np.hypot(n[..., 0], n[..., 1]).max()), 1.02, g.name)
            self.assertLess(float(np.abs(n.mean((0, 1))).max()), 0.03, g.name)  # level on the whole


class Parcels(unittest.TestCase):
    def test_tiles_are_lossless_for_any_bits(self):
        rng = np.random.default_rng(3)
        for dtype in (np.uint8, np.uint16, np.float32):
            for shape in ((1, 1), (256, 256), (17, 203)):
                tile = (
                    (rng.normal(size=shape) * 1000).astype(np.float32)
                    if dtype is np.float32
                    else rng.integers(0, np.iinfo(dtype).max, shape).astype(dtype)
                )
                np.testing.assert_array_equal(unpack(pack(tile), shape, np.dtype(dtype)), tile)
        smooth = np.tile(np.arange(256, dtype=np.uint16) * 3, (256, 1))
        self.assertLess(len(pack(smooth)), smooth.nbytes / 20)

    def test_instances_lie_by_tile_and_then_by_rank(self):
        rng = np.random.default_rng(4)
        column = lambda: rng.uniform(0, 1, 500).astype(np.float32)
        p = Plants(
            column() * 100,
            column() * 60,
            column(),
            column(),
            column(),
            column(),
            column(),
            column(),
            column(),
            rng.integers(0, 3, 500).astype(np.uint8),
            rng.integers(0, 4, 500).astype(np.uint8),
        )
        data, tiles = instances_of(p, 16.0)
        table = np.frombuffer(data, "<f4").reshape(-1, 9)
        rank = dict(zip(map(tuple, np.c_[p.east, p.north].astype(np.float32)), p.rank))
        for c, r, start, end in tiles:
            part = table[start:end]
            self.assertTrue((part[:, 0] // 16 == c).all() and (part[:, 1] // 16 == r).all())
            ranks = [rank[tuple(q)] for q in part[:, :2]]
            self.assertEqual(ranks, sorted(ranks))
        self.assertEqual(
            sorted(table[:, 8].astype(int)),
            sorted((p.kind.astype(int) * VARIANTS + p.variant).tolist()),
        )

    def test_tiles_suit_the_density(self):
        sizes = [tile_size(d) for d in (0.0001, 0.01, 0.3, 10, 400)]
        self.assertEqual(sizes, sorted(sizes, reverse=True))
        self.assertEqual((sizes[0], sizes[-1]), (128, 8))
        self.assertTrue(
            all(len(k.variants) <= 4 for k in kinds.values())
        )  # a sheet has room for four far cards


if __name__ == "__main__":
    unittest.main()
