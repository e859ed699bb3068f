"""Kinds as stills see them near: their measures, how they grow, and the ground's own growth."""

import json
import tempfile
import unittest
from pathlib import Path

import numpy as np
from scipy.sparse import coo_array
from scipy.sparse.csgraph import connected_components
from scipy.spatial import cKDTree

from sow.core.build import Build
from sow.core.cabinet import grounds, kinds
from sow.core.cabinet.figure import STANDING
from sow.core.cabinet.growth.barks import ridged, ringed, ripples, smooth
from sow.core.cabinet.growth.blades import scattered
from sow.core.cabinet.growth.damage import with_dead_limbs, with_stubs
from sow.core.cabinet.growth.foliage import lobed, pinnate, pointed, rhombic
from sow.core.cabinet.growth.side_twigs import with_side_twigs
from sow.core.cabinet.growth.skeleton import Crown, colonised, stem, thickened, thin_joints
from sow.core.cabinet.growth.skin import finer, limbs_of, tube
from sow.core.cabinet.growth.snow import lying
from sow.core.cabinet.hands import hand_near, is_hand
from sow.core.cabinet.measures import MEASURES, WITHIN, measured
from sow.core.cabinet.mesh import Mesh
from sow.core.cabinet.rock import GRANITE, SLATE, rocky
from sow.core.cabinet.stone import boulder
from sow.core.cabinet.swards import swards
from sow.core.cabinet.thinned import thinned
from sow.core.cache import Cache
from sow.core.picture.bodies import Body
from sow.core.picture.choose import chosen, pieces_of
from sow.core.picture.dressed import NEAREST, SHARES, bodies_of
from sow.core.picture.foot import RINGS, foot_of
from sow.core.picture.prepared import view_of
from sow.core.picture.shed import shed_of
from sow.core.scene import read_scene

TIER = "whole"

NEAR = [k for k in kinds.values() if k.nearest is not None]


def area_m2(mesh: Mesh) -> float:
    at = mesh.positions[mesh.faces].astype(float)
    return float(
        np.linalg.norm(np.cross(at[:, 1] - at[:, 0], at[:, 2] - at[:, 0]), axis=1).sum() / 2
    )


class EveryNearKind(unittest.TestCase):
    def whole(self, kind, parts) -> None:
        """Its arrays fit together, its colours are reflectances, it is as large as it is told."""
        places = np.concatenate([p.mesh.positions for p in parts])
        for part in parts:
            mesh = part.mesh
            self.assertTrue(np.isfinite(mesh.positions).all())
            self.assertLess(int(mesh.faces.max()), len(mesh.positions))
            light = mesh.colour if part.picture is None else part.picture
            self.assertTrue(light.min() >= 0 and light.max() < 1.3)
        tall = places[:, 2].max() / kind.height_m
        self.assertTrue(0.6 < tall < 1.6, tall)
        reach = np.quantile(np.hypot(*places.T[:2]), 0.98)
        self.assertLess(reach, 2.4 * kind.reach_m + 0.15)

    def test_is_whole_itself_and_measures_what_it_does_in_nature(self):
        prints = set()
        for kind in NEAR:
            with self.subTest(kind.name):
                parts = kind.parts(0)  # one at a time: all of them fill a machine's memory
                self.whole(kind, parts)
                prints.add(parts[-1].mesh.positions.sum(dtype=float))
                found = measured(kind, parts)
                self.assertEqual(bool(found), kind.name in MEASURES)
                for m in found:
                    self.assertLessEqual(m.off, WITHIN, m)
        self.assertEqual(len(prints), len(NEAR))

    def test_grows_the_same_twice_and_each_variant_its_own(self):
        for name in ("rowan", "juniper", "heather", "bracken", "moor-grass", "oxeye", "cobble"):
            kind, first = kinds[name], kinds[name].parts(0)[-1].mesh.positions
            np.testing.assert_array_equal(first, kind.parts(0)[-1].mesh.positions, name)
            self.assertFalse(np.array_equal(first, kind.parts(1)[-1].mesh.positions), name)

    def test_people_have_faces(self):
        for name, tall in (("person", 1.75), ("woman", 1.66), ("child", 0.78)):
            (part,) = kinds[name].parts(0)
            at, colour = part.mesh.positions, part.mesh.colour
            self.assertAlmostEqual(float(at[:, 2].max()), tall, delta=0.01)
            face = at[:, 2] > tall - 0.24
            red = colour[:, 0] / np.maximum(colour[:, 2], 1e-6)
            lips = face & (red > 2.2) & (red < 2.6) & (colour[:, 0] > 0.3)
            dark = face & (colour.max(1) < 0.04)
            self.assertTrue(lips.any() and dark.any(), name)
            self.assertLess(float(at[lips, 2].mean()), float(at[dark, 2].mean()))  # eyes over mouth
            left, right = at[dark, 0] < 0, at[dark, 0] > 0
            self.assertAlmostEqual(left.mean(), right.mean(), delta=0.1)
            foremost = at[face][at[face][:, 1].argmax()]
            self.assertAlmostEqual(float(foremost[0]), 0, delta=0.012)  # the nose

    def test_hands_have_fingers_and_measure_what_hands_do(self):
        hands = [limb for limb in STANDING if is_hand(limb)]
        self.assertEqual(len(hands), 2)
        for limb in hands:
            places, faces = hand_near(limb, 1)
            on = np.array(limb[1]) - np.array(limb[0])
            along = (places - limb[0]) @ (on / np.linalg.norm(on))
            self.assertAlmostEqual(float(np.ptp(along)), 0.19, delta=0.02)  # Greiner 1991, men
            tips = (along > 0.13)[faces].all(1)
            links = np.concatenate([faces[tips][:, :2], faces[tips][:, 1:]])
            graph = coo_array((np.ones(len(links)), links.T), (len(places),) * 2)
            part = connected_components(graph, directed=False)[1]
            self.assertEqual(len(np.unique(part[faces[tips].ravel()])), 4)

    def test_every_look_can_be_built(self):
        for name in ("rowan", "juniper", "bilberry", "bracken", "moor-grass", "cobble", "oxeye"):
            for look in kinds[name].looks:
                self.assertTrue(kinds[name].parts(0, look), (name, look))
        bare = kinds["rowan"].parts(0, "winter")
        self.assertEqual(len(kinds["rowan"].parts(0)) - len(bare), 1)


class Growth(unittest.TestCase):
    def grown(self):
        rng = np.random.default_rng(4)
        crown = Crown(1.5, 8, 2.4, lambda t: np.sin(np.pi * (0.1 + 0.8 * t)), 900)
        leader = stem(rng, (0, 0, 0), (0, 0, 7), 0.16, 0.03)
        grown = colonised(rng, crown.points(rng), [leader], 0.16, 1.4, 0.34, 0.1, 0.1)
        return thickened(grown, 0.08, 0.004)

    def test_a_skeleton_hangs_together_and_thins_outward(self):
        s = self.grown()
        self.assertEqual(int((s.parent < 0).sum()), 1)
        inner = s.parent >= 0
        self.assertTrue((s.parent[inner] < np.flatnonzero(inner)).all())
        self.assertTrue((s.radius[s.parent[inner]] >= s.radius[inner] - 1e-12).all())
        self.assertAlmostEqual(float(s.radius[0]), 0.08, delta=0.004)
        self.assertAlmostEqual(float(s.radius.min()), 0.004)

    def test_it_fills_its_crown_and_no_more(self):
        s = self.grown()
        thin = s.places[s.radius < 0.02]
        self.assertLess(np.hypot(*thin.T[:2]).max(), 2.4 * 1.45)
        filled = np.histogram2d(thin[:, 2], np.arctan2(thin[:, 1], thin[:, 0]), (4, 6))[0]
        self.assertGreater((filled > 0).mean(), 0.75)

    def test_side_twigs_fill_the_room_between_its_limbs(self):
        bare = self.grown()
        rng = np.random.default_rng(1)
        full = thickened(with_side_twigs(rng, bare, 500, 0.5, 2.0, 0.0), 0.08, 0.004)
        self.assertEqual(len(full.parent), len(bare.parent) + 3 * 500)
        np.testing.assert_array_equal(full.places[: len(bare.places)], bare.places)
        self.assertTrue((full.places[len(bare.places) :, 2] > 1.5).all())
        self.assertTrue((full.radius[len(bare.places) :] < 0.02).all())
        t = np.random.default_rng(2).uniform((-1.5, -1.5, 3), (1.5, 1.5, 6.5), (4000, 3))
        inside = t[np.hypot(t[:, 0], t[:, 1]) < 1.5]
        far = [np.quantile(cKDTree(s.places).query(inside)[0], 0.9) for s in (bare, full)]
        self.assertLess(far[1], 0.9 * far[0])  # none of its room is far from a twig

    def test_boughs_break_off_and_limbs_die(self):
        whole = self.grown()
        broken, again = (with_stubs(np.random.default_rng(3), whole, 3) for _ in range(2))
        np.testing.assert_array_equal(broken.places, again.places)
        self.assertEqual(int((broken.parent < 0).sum()), 1)  # nothing hangs in the air
        self.assertTrue((broken.parent[1:] >= 0).all())
        self.assertLess(len(broken.parent), len(whole.parent))
        long = np.linalg.norm(broken.places[1:] - broken.places[broken.parent[1:]], axis=1)
        self.assertLess(long.max(), 0.2)
        self.assertTrue(len(broken.bare))
        dead = with_dead_limbs(np.random.default_rng(3), whole, 0.2)
        np.testing.assert_array_equal(dead.places, whole.places)
        mean = lambda joints: whole.places[joints, 2].mean()
        self.assertLess(mean(dead.bare), mean(thin_joints(dead)))  # in the shade, low down
        self.assertFalse(np.isin(thin_joints(dead), dead.bare).any())
        self.assertFalse(np.isin(thin_joints(broken), broken.bare).any())
        self.assertTrue(np.isin(np.flatnonzero(np.isin(dead.parent, dead.bare)), dead.bare).all())

    def test_its_limbs_hold_every_joint_once(self):
        s = self.grown()
        limbs = s.limbs()
        own = np.concatenate([limb if s.parent[limb[0]] < 0 else limb[1:] for limb in limbs])
        # a limb begins at the joint that it leaves, which belongs to another
        self.assertEqual(len(np.unique(np.concatenate(limbs))), len(s.places))
        self.assertLess(len(own), 1.6 * len(s.places))

    def test_a_tube_has_no_seam_and_its_radius(self):
        path = np.stack([np.zeros(9), 0.1 * np.sin(np.arange(9)), np.arange(9.0)], 1)
        fine, radii = finer(path, np.full(9, 0.2), 0.2)
        self.assertLess(np.abs(fine[::5] - path)[:, 2].max(), 1e-6)
        made = tube(fine, radii, 12, None)
        rings = made.positions.reshape(len(fine), 13, 3)
        np.testing.assert_allclose(rings[:, 0], rings[:, -1], atol=1e-6)
        normals = made.normals.reshape(len(fine), 13, 3)
        np.testing.assert_allclose(normals[:, 0], normals[:, -1], atol=1e-6)
        whole = made.uv.reshape(len(fine), 13, 2)[:, -1, 0]
        np.testing.assert_allclose(whole, np.round(whole), atol=1e-6)
        away = np.linalg.norm(rings - fine[:, None], axis=2)
        np.testing.assert_allclose(away, 0.2, atol=1e-5)

    def test_snow_lies_on_top_of_level_limbs_and_slips_from_steep_ones(self):
        rng = np.random.default_rng(4)
        feet = rng.uniform(0, 5, (400, 3))
        half = np.full((400, 2), 0.02)
        deep = []
        for rise in (0, 30, 75):
            turn = rng.uniform(0, 2 * np.pi, 400)
            flat, up = np.cos(np.deg2rad(rise)), np.sin(np.deg2rad(rise))
            ways = np.stack([flat * np.cos(turn), flat * np.sin(turn), np.full(400, up)], 1)
            snow = lying(np.random.default_rng(1), feet, feet + 0.3 * ways, half)
            count = len(snow.mesh.positions) // snow.unit if snow.unit else 0
            if rise == 75:
                self.assertEqual(count, 0)
                break
            self.assertTrue(240 < count < 360, count)  # from some it has fallen
            ridges = snow.mesh.positions.reshape(count, 2, -1, 3)
            foot = ridges[:, 0, [0, -1]].mean(1)
            deep.append(float((ridges[:, 0, 2, 2] - foot[:, 2]).mean()))
            self.assertGreater(float(snow.mesh.normals[:, 2].min()), -0.01)
            wide = np.linalg.norm(ridges[:, 0, 0] - ridges[:, 0, -1], axis=1)
            np.testing.assert_allclose(wide, 2 * (1.2 * 0.02 + 0.002), rtol=1e-4)
        self.assertGreater(deep[0], 1.15 * deep[1])
        self.assertTrue(0.02 < deep[0] < 0.09, deep)

    def test_bark_stands_out_of_thick_limbs_only(self):
        s = self.grown()
        plain = limbs_of(s, 0.03, None, 0.03, 0.015)[0]
        ridges = limbs_of(s, 0.03, ridged((0.3,) * 3, (0.1,) * 3), 0.03, 0.015)[0]
        self.assertEqual(plain.positions.shape, ridges.positions.shape)
        apart = np.linalg.norm(plain.positions - ridges.positions, axis=1)
        self.assertTrue(0.002 < apart.max() < 0.012, apart.max())

    def test_tiles_of_bark_meet_their_own_edges(self):
        for bark in (ridged((0.3,) * 3, (0.1,) * 3), ringed((0.6,) * 3, (0.1,) * 3)):
            h = bark.height
            for axis in (0, 1):
                inner = np.abs(np.diff(h, axis=axis)).mean()
                edge = np.abs(h.take(0, axis) - h.take(-1, axis)).mean()
                self.assertLess(edge, 2.5 * inner)
        self.assertFalse(np.array_equal(smooth((0.3,) * 3, (0.1,) * 3, 1).height, h))
        self.assertAlmostEqual(float(ripples(np.random.default_rng(1), 9, 9).std()), 1, places=6)

    def test_leaves_have_their_measures(self):
        for leaf in (pointed(0.05, 0.03), rhombic(0.05, 0.03), lobed(0.05, 0.03)):
            box = np.ptp(leaf.places, axis=0) * leaf.long_m
            self.assertAlmostEqual(box[1], 0.05, delta=0.004)
            self.assertAlmostEqual(box[0], 0.03, delta=0.006)
            self.assertTrue(0.3 < leaf.area_m2() / (0.05 * 0.03) < 0.85)
        self.assertEqual(len(pinnate(0.2, 0.05, 0.02, 6).faces), 4 * 13 + 1)

    def test_blades_are_as_long_as_they_are_told(self):
        rng = np.random.default_rng(3)
        blades = scattered(rng, 40, 0.1, 0.5, 0.004, 1.2, (0.1,) * 3, (0.2,) * 3)
        spine, ways, side = blades.spine(24)
        long = np.linalg.norm(np.diff(spine, axis=1), axis=2).sum(1)
        np.testing.assert_allclose(long, blades.long_m, rtol=0.01)
        self.assertLess(np.abs((ways * side).sum(2)).max(), 1e-9)
        mesh = blades.mesh(6)
        self.assertEqual(len(mesh.faces), 40 * 24)

    def test_rock_keeps_its_stone(self):
        stone = boulder(3, 5, (0.6, 0.5, 0.4), 20, 20)
        for rock in (GRANITE, SLATE):
            made = rocky(stone, rock, 2)
            moved = np.linalg.norm(made.positions - stone.positions, axis=1)
            self.assertTrue(0.002 < moved.mean() < 0.03 and moved.max() < 0.09)
        grey, blue = (rocky(stone, r, 2).colour.mean(0) for r in (GRANITE, SLATE))
        self.assertGreater(grey[0] / grey[2], blue[0] / blue[2])


def scene(**more):
    return read_scene(
        {
            "name": "t",
            "plot": {"width_m": 60, "depth_m": 60, "posts": 61},
            "ground": [
                {"id": "a", "name": "Turf", "ground": "turf"},
                {
                    "id": "b",
                    "name": "Sand",
                    "ground": "sand",
                    "where": [{"kind": "in-area", "mark": "east"}],
                },
            ],
            "marks": [
                {
                    "id": "east",
                    "name": "e",
                    "kind": "area",
                    "points": [[36, 0], [60, 0], [60, 60], [36, 60]],
                }
            ],
            "shots": [
                {"id": "s", "name": "S", "east_m": 26, "north_m": 20, "eye_m": 1.6, "tilt": -25}
            ],
            **more,
        }
    )


def ready(document, east=None):
    build = Build(document, document.plot.grid(), Cache())
    shot = build.shots()[0]
    if east is not None:
        shot = shot.model_copy(update={"east_m": east})
    return build, view_of(build, shot, 640, 360)


class AtTheFoot(unittest.TestCase):
    def test_grows_where_its_ground_lies_and_near_the_eye_only(self):
        build, view = ready(scene())
        patches = list(foot_of(build, view))
        at = np.concatenate([c.at[:, :3, 3] for c in patches])
        self.assertEqual({c.kind for c in patches}, {"Turf"})
        self.assertLess((at[:, 0] > 36.5).mean(), 0.02)
        self.assertGreater((at[:, 0] > 28).sum(), 10)
        away = np.hypot(*(at[:, :2] - view.eye[:2]).T)
        self.assertLess(away.max(), 3 * RINGS[-1][0])
        # as many to the square metre as the lattice has, on the half that is turf
        near = away < 5
        self.assertGreater(near.sum(), 30)

    def test_stays_where_it_is_when_the_eye_moves(self):
        document = scene()
        first, second = (
            np.concatenate([c.at[:, :3, 3] for c in foot_of(*ready(document, east))])
            for east in (26.0, 26.6)
        )
        near = lambda p: p[np.hypot(p[:, 0] - 26.3, p[:, 1] - 24) < 1.2].round(4)
        known = {tuple(p) for p in near(second)}
        self.assertTrue(len(known) > 10)
        self.assertEqual({tuple(p) for p in near(first)}, known)

    def test_not_in_water(self):
        pool = {"id": "w", "name": "W", "reach": "everywhere", "level_m": 5}
        self.assertEqual(list(foot_of(*ready(scene(water=[pool])))), [])

    def test_every_patch_can_be_made(self):
        for name, make in swards.items():
            self.assertIn(name, grounds)
            parts = make(np.random.default_rng(1), 0.3, 0.6)
            places = np.concatenate([p.mesh.positions for p in parts])
            self.assertLess(np.hypot(*places.T[:2]).max(), 0.62, name)
            self.assertTrue(places[:, 2].min() > -0.1 and places[:, 2].max() < 0.4, name)


class Shed(unittest.TestCase):
    WOOD = {
        "id": "wood",
        "name": "Wood",
        "mix": [{"kind": "oak", "share": 50}, {"kind": "spruce", "share": 50}],
        "density": 0.5,
    }

    def under(self, **more):
        return list(shed_of(*ready(scene(planting=[self.WOOD], **more))))

    def test_lies_under_the_crowns_that_shed_it_and_nowhere_else(self):
        found = self.under(season="autumn")
        self.assertEqual({c.kind for c in found}, {"Sessile oak", "Spruce"})
        build, _ = ready(scene(planting=[self.WOOD]))
        plants = build.plants(0)
        reach = np.array([kinds[n].reach_m for n in ("oak", "spruce")])[plants.kind] * plants.size
        for copies in found:
            own = plants.kind == int(copies.kind == "Spruce")
            trees = np.stack([plants.east, plants.north], 1)[own]
            for place in copies.at[:, :2, 3]:
                away = np.linalg.norm(trees - place, axis=1) / reach[own]
                self.assertLess(away.min(), 1.4)

    def test_by_season(self):
        count = lambda season: sum(len(c.at) for c in self.under(season=season))
        self.assertGreater(count("autumn"), 1.5 * count("summer"))
        self.assertGreater(count("summer"), 0)
        self.assertEqual(count("snow"), 0)

    def test_burnt_trees_shed_nothing(self):
        burnt = {**self.WOOD, "mix": [{"kind": "oak", "look": "burnt"}]}
        self.assertEqual(list(shed_of(*ready(scene(planting=[burnt])))), [])


class FromAfar(unittest.TestCase):
    def test_fewer_leaves_hide_as_much_of_the_sky_within_the_same_crown(self):
        for name in ("birch", "spruce"):
            full = kinds[name].parts(0)
            reach = np.quantile(np.abs(full[-1].mesh.positions), 0.98, 0)
            for share in SHARES[1:3]:
                few = kinds[name].parts(0, share=share)
                faces = sum(len(p.mesh.faces) for p in few)
                self.assertLess(faces, 1.3 * share * sum(len(p.mesh.faces) for p in full))
                for part, whole in zip(few[-2:], full[-2:]):  # leaves, and the twigs that bear them
                    kept, had = area_m2(part.mesh), area_m2(whole.mesh)
                    self.assertLess(abs(kept / had - 1), 0.08, (name, share))
                mine = np.quantile(np.abs(few[-1].mesh.positions), 0.98, 0)
                np.testing.assert_allclose(mine, reach, rtol=0.08)

    def test_what_is_one_whole_is_not_thinned(self):
        part = kinds["birch"].parts(0)[0]
        self.assertIs(thinned(part, 0.1), part)

    def test_a_tree_far_off_is_light(self):
        counts = []
        for level, share in enumerate(SHARES):
            bodies = bodies_of("birch", 0, level, 8)
            counts.append(sum(len(b.faces) for b in bodies))
            self.assertLess(counts[-1], 1.3 * share * counts[0] + 800)
        self.assertEqual(counts, sorted(counts, reverse=True))


class OnTheStage(unittest.TestCase):
    def test_only_what_is_near_is_built_leaf_by_leaf(self):
        pieces = [
            {"id": f"p{n}", "name": "B", "kind": "birch", "east_m": 26, "north_m": n}
            for n in (26, 59)
        ]
        build, view = ready(scene(pieces=pieces))
        near, far = (sum(len(b.faces) for b in c.bodies) for c in pieces_of(build, view))
        self.assertGreater(near, 200_000)
        sowing = {
            "id": "wood",
            "name": "Birch",
            "mix": [{"kind": "birch", "share": 100}],
            "density": 0.6,
            "layout": "natural",
        }
        build, view = ready(scene(planting=[sowing], plot={"width_m": 400, "depth_m": 400}))
        for copies in chosen(build, view):
            away = np.linalg.norm(copies.at[:, :3, 3] - view.eye, axis=1)
            built = sum(len(b.faces) for b in copies.bodies) > 200_000
            self.assertTrue(away.max() < 130 if built else away.min() > 12)

    def test_leaves_let_light_through_and_bark_repeats(self):
        bodies: list[Body] = bodies_of("oak", 0, NEAREST, 8)
        bark, _, leaves = bodies
        self.assertTrue(bark.surface.tiles and bark.surface.picture is not None)
        self.assertGreater(leaves.surface.through, 0.3)
        self.assertEqual(len(leaves.colour), len(leaves.faces))


class Files(unittest.TestCase):
    def test_a_kind_is_written_with_what_it_measures(self):
        from sow.core.formats.kindfiles import nearest_glb, told_of, write_kind

        with tempfile.TemporaryDirectory() as folder:
            files = write_kind("cobble", Path(folder), px=48, turns=2)
            self.assertEqual(len(files), 4)
            told = json.loads((Path(folder) / "cobble.json").read_text())
            self.assertEqual(told["triangles_nearest"], 20480)
        self.assertEqual(nearest_glb(kinds["cobble"])[:4], b"glTF")
        told = told_of(kinds["clover"])["measures"]
        self.assertTrue(all(m["outside_by"] <= WITHIN for m in told) and told)
