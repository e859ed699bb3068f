"""Light and cameras as USD."""

import numpy as np
from pxr import Gf, Sdf, Usd, UsdGeom, UsdLux

from ...air.light_of import Daylight
from ...build import Build
from ...shots.shot import axes, eye_over, focus_of
from .layer import below, called

FRAME_MM = 36.0
TENTHS = 0.01  # of a scene unit to a millimetre: lenses are told in tenths of the scene's unit
NEAR_M, FAR_M = 0.05, 2e5


def add_sky(root: Usd.Prim, lit: Daylight, picture: str) -> None:
    """The sun, turned to where it stands, and the sky as a dome, both in the scene's exposed unit:
    a camera without an exposure of its own shows them as Sow does.
    """
    stage = root.GetStage()
    exposed = float(np.mean(lit.exposure))
    dome = UsdLux.DomeLight.Define(stage, below(root, "Sky"))
    dome.CreateTextureFileAttr(Sdf.AssetPath(picture))
    dome.CreateTextureFormatAttr(UsdLux.Tokens.latlong)
    dome.CreateIntensityAttr(exposed)
    UsdGeom.Xformable(dome).AddRotateXOp().Set(90.0)  # its pole is y, row 0 the zenith
    sun = np.asarray(lit.sunlight, float) * exposed
    most = float(sun.max())
    if most <= 0:
        return
    light = UsdLux.DistantLight.Define(stage, below(root, "Sun"))
    light.CreateNormalizeAttr(True)
    light.CreateIntensityAttr(most)
    light.CreateColorAttr(Gf.Vec3f(*map(float, sun / most)))
    light.CreateAngleAttr(float(lit.light.sun_size))
    turn = Gf.Rotation(Gf.Vec3d(0, 0, -1), Gf.Vec3d(*map(float, -np.asarray(lit.sun))))
    _turned(light, turn.GetQuat())


def add_lamps(root: Usd.Prim, lamps: list, lit: Daylight) -> None:
    """Lamps as small balls that shine, those with a cone shaped to it."""
    stage = root.GetStage()
    scale = float(np.mean(lit.exposure)) / lit.unit_kcd
    for lamp in lamps:
        rgb = np.asarray(lamp.kcd, float) * scale
        most = float(rgb.max())
        if most <= 0:
            continue
        light = UsdLux.SphereLight.Define(stage, below(root, f"Lamp {lamp.id}"))
        light.CreateNormalizeAttr(True)
        light.CreateTreatAsPointAttr(True)
        light.CreateRadiusAttr(0.02)
        light.CreateIntensityAttr(most * 4)  # candela of a ball that is normalised by its surface
        light.CreateColorAttr(Gf.Vec3f(*map(float, rgb / most)))
        UsdGeom.Xformable(light).AddTranslateOp().Set(Gf.Vec3d(*map(float, lamp.place)))
        if lamp.outer >= 0:
            cone = UsdLux.ShapingAPI.Apply(light.GetPrim())
            outer = float(np.degrees(np.arccos(lamp.outer)))
            inner = float(np.degrees(np.arccos(lamp.inner)))
            cone.CreateShapingConeAngleAttr(outer)
            cone.CreateShapingConeSoftnessAttr(1 - inner / max(outer, 1e-6))
            turn = Gf.Rotation(Gf.Vec3d(0, 0, -1), Gf.Vec3d(*map(float, lamp.aim)))
            _turned(light, turn.GetQuat())


def _turned(light, quat: Gf.Quatd) -> None:
    UsdGeom.Xformable(light).AddOrientOp(UsdGeom.XformOp.PrecisionFloat).Set(Gf.Quatf(quat))


def add_cameras(root: Usd.Prim, build: Build) -> None:
    """A camera for each shot: place, lens, shift, opening and focus."""
    stage = root.GetStage()
    for shot in build.shots():
        camera = UsdGeom.Camera.Define(stage, below(root, shot.name))
        called(camera.GetPrim(), shot.name)
        eye = eye_over(shot, build.ground_at)
        right, up, ahead = axes(shot.bearing, shot.tilt)
        at = Gf.Matrix4d(1)
        for row, axis in enumerate((right, up, -ahead)):
            at.SetRow3(row, Gf.Vec3d(*map(float, axis)))
        at.SetTranslateOnly(Gf.Vec3d(*map(float, eye)))
        camera.AddTransformOp().Set(at)
        wide = FRAME_MM * TENTHS
        camera.CreateFocalLengthAttr(shot.focal_mm * TENTHS)
        camera.CreateHorizontalApertureAttr(wide)
        camera.CreateVerticalApertureAttr(wide * shot.height_px / shot.width_px)
        camera.CreateHorizontalApertureOffsetAttr(wide * shot.shift_aside / 100)
        camera.CreateVerticalApertureOffsetAttr(wide * shot.shift_up / 100)
        camera.CreateClippingRangeAttr(Gf.Vec2f(NEAR_M, FAR_M))
        camera.CreateFStopAttr(shot.aperture)
        camera.CreateFocusDistanceAttr(focus_of(shot, eye, build.ground_at))
        camera.CreateExposureAttr(shot.exposure)
