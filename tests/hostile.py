"""Files made to do harm, or simply broken, each with what must be said of it."""

import io
import json
import struct
import tempfile
import zipfile
import zlib
from collections.abc import Iterator
from dataclasses import dataclass, field
from pathlib import Path

import cv2
import numpy as np
import OpenEXR
import tifffile

from sow.core.cabinet import kinds
from sow.core.formats.kind_glb import kind_glb
from sow.core.plot import Plot

PLOT = Plot(width_m=400, depth_m=300, posts=257).model_dump(mode="json")


@dataclass
class Hostile:
    """A file: the reader that it is given to, its bytes by name, what the reader is told besides,
    and a pattern of the sentence that must come back.
    """

    case: str
    reader: str
    files: dict[str, bytes]
    says: str
    settings: dict = field(default_factory=dict)


def png(width=40, height=30, channels=1, seed=1) -> bytes:
    values = np.random.default_rng(seed).integers(0, 255, (height, width, channels), np.uint8)
    return cv2.imencode(".png", values)[1].tobytes()


def png_that_claims(width: int, height: int, depth=8, colour=0) -> bytes:
    """A PNG with a right header and next to nothing after it."""

    def chunk(name: bytes, data: bytes) -> bytes:
        return (
            struct.pack(">I", len(data)) + name + data + struct.pack(">I", zlib.crc32(name + data))
        )

    head = struct.pack(">IIBBBBB", width, height, depth, colour, 0, 0, 0)
    data = zlib.compress(b"\0" * 64)
    return b"\x89PNG\r\n\x1a\n" + chunk(b"IHDR", head) + chunk(b"IDAT", data) + chunk(b"IEND", b"")


def tiff(values: np.ndarray, **more) -> bytes:
    out = io.BytesIO()
    tifffile.imwrite(out, values, metadata=None, **more)
    return out.getvalue()


def flipped(data: bytes, at: int) -> bytes:
    return data[:at] + bytes([data[at] ^ 0xFF]) + data[at + 1 :]


def glb(document: dict, body: bytes = b"") -> bytes:
    text = json.dumps(document).encode()
    text += b" " * (-len(text) % 4)
    body += b"\0" * (-len(body) % 4)
    chunks = struct.pack("<I4s", len(text), b"JSON") + text
    if body:
        chunks += struct.pack("<I4s", len(body), b"BIN\0") + body
    return struct.pack("<4sII", b"glTF", 2, 12 + len(chunks)) + chunks


TRIANGLE = np.array([[0, 0, 0], [1, 0, 0], [0, 1, 0]], "<f4").tobytes()


def triangle(**more) -> dict:
    """A glTF document of one triangle, with other entries put over its own."""
    return {
        "asset": {"version": "2.0"},
        "scene": 0,
        "scenes": [{"nodes": [0]}],
        "nodes": [{"mesh": 0}],
        "meshes": [{"primitives": [{"attributes": {"POSITION": 0}}]}],
        "accessors": [
            {
                "bufferView": 0,
                "componentType": 5126,
                "count": 3,
                "type": "VEC3",
                "min": [0, 0, 0],
                "max": [1, 1, 0],
            }
        ],
        "bufferViews": [{"buffer": 0, "byteLength": 36}],
        "buffers": [{"byteLength": 36}],
    } | more


def package(scene: object, more: dict[str, bytes] | None = None, manifest: object = None) -> bytes:
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as archive:
        archive.writestr("scene.json", scene if isinstance(scene, str) else json.dumps(scene))
        if manifest is not None:
            archive.writestr("manifest.json", json.dumps(manifest))
        for name, data in (more or {}).items():
            archive.writestr(name, data)
    return out.getvalue()


SCENE = {
    "name": "s",
    "plot": {"width_m": 300, "depth_m": 300, "posts": 129},
    "marks": [{"id": "m", "name": "m", "kind": "mask", "raster": "rasters/a.png"}],
}
DAMAGED = r"damaged|can't be read|cannot be read|no picture|no data|not a |is no |ends too soon"


def elevations() -> Iterator[Hostile]:
    def one(case, data, says, name="x.png", **raw):
        return Hostile(f"elevation {case}", "elevation", {name: data}, says, {"raw": raw or None})

    yield one("empty", b"", "no picture or elevation file")
    yield one("one byte", b"\x89", "no picture or elevation file")
    yield one("text", b"hello, I am a picture", "no picture or elevation file")
    yield one("markup", b"<script>alert(1)</script>", "no picture or elevation file")
    for seed in range(6):
        noise = np.random.default_rng(seed).bytes(500)
        yield one(f"noise {seed}", noise, "no picture or elevation file")
    for n, cut in enumerate((9, 20, 33, 40, 60, 120, 300, 700)):
        yield one(f"PNG cut {n}", png(seed=2)[:cut], DAMAGED)
    for at in (16, 20, 24, 26, 29):
        yield one(f"PNG flipped {at}", flipped(png(), at), DAMAGED + "|at most")
    for width, height in ((60_000, 60_000), (2**31 - 1, 1), (20_001, 10), (10_001, 10_000)):
        yield one(f"PNG of {width} x {height}", png_that_claims(width, height), "at most 20,000")
    for width, height in ((1, 1), (1, 500), (500, 1)):
        yield one(f"PNG of {width} x {height}", png(width, height), "at least 2 rows")
    yield one("PNG of no size", png_that_claims(0, 0), DAMAGED)
    yield one("PNG without its pixels", png_that_claims(5000, 5000), DAMAGED)
    photo = cv2.imencode(".jpg", np.full((40, 40, 3), 90, np.uint8))[1].tobytes()
    web = cv2.imencode(".webp", np.full((40, 40, 3), 90, np.uint8))[1].tobytes()
    for n, cut in enumerate((4, 20, 100, 160)):
        yield one(f"JPEG cut {n}", photo[:cut], DAMAGED, "x.jpg")
    for n, cut in enumerate((12, 16, 24, 30)):
        yield one(f"WebP cut {n}", web[:cut], DAMAGED, "x.webp")
    whole = tiff(np.arange(1200, dtype=np.uint16).reshape(30, 40))
    for n, cut in enumerate((4, 8, 10, 40, 90, 140, 400)):
        yield one(f"TIFF cut {n}", whole[:cut], DAMAGED, "x.tif")
    yield one("TIFF whose pages turn in a circle", _tiff_in_a_circle(), DAMAGED, "x.tif")
    yield one("TIFF of complex numbers", tiff(np.zeros((9, 9), np.complex64)), "complex64", "x.tif")
    yield one("TIFF of 64 bits", tiff(np.zeros((9, 9), np.int64)), "int64 values", "x.tif")
    yield one("TIFF without data", tiff(np.full((9, 9), np.nan, np.float32)), "no heights", "x.tif")
    yield one("TIFF that claims much", _tiff_that_claims(60_000), "at most 20,000", "x.tif")
    degrees = tiff(
        np.zeros((9, 9), np.float32),
        extratags=[(34735, "H", 8, (1, 1, 0, 1, 1024, 0, 1, 2), False)],
    )
    yield one("TIFF in degrees", degrees, "longitude and latitude", "x.tif")
    yield from _grids(one)
    for bytes_, columns, rows in ((10, 3, 3), (0, 40, 40), (7, 2, 2), (2 << 16, 999_999, 999_999)):
        raw = {"columns": columns, "rows": rows, "type": "uint16", "order": "little"}
        yield one(f"raw of {bytes_} bytes", b"\1" * bytes_, "posts of 2 bytes are", "x.raw", **raw)
    raw = {"columns": 4, "rows": 4, "type": "object", "order": "little"}
    yield one("raw of objects", b"\1" * 128, "uint16 or float32", "x.raw", **raw)
    raw = {"columns": 4, "rows": 4, "type": "float32", "order": "sideways"}
    yield one("raw sideways", b"\1" * 64, "little or big", "x.raw", **raw)
    raw = {"columns": 4, "rows": 4, "type": "float32", "order": "little"}
    yield one("raw of nothing", b"\xff" * 64, "no heights at all", "x.raw", **raw)


def _grids(one) -> Iterator[Hostile]:
    head = {"ncols": "4", "nrows": "3", "cellsize": "2"}
    values = " ".join(map(str, range(12)))

    def grid(**changed):
        lines = [f"{k} {v}" for k, v in (head | changed).items() if v is not None]
        return ("\n".join(lines) + "\n" + values).encode()

    for key in head:
        if key != "ncols":
            yield one(f"grid without {key}", grid(**{key: None}), f"without {key}")
    for wrong in ("many", "inf", "nan", "1e999", "0x10", "٤x"):
        yield one(f"grid of {wrong} rows", grid(nrows=wrong), "is not a number|without")
    yield one("grid too large", grid(ncols="999999", nrows="999999"), "at most 20,000")
    yield one("grid of no rows", grid(nrows="0"), "at least 2 rows")
    yield one("grid of minus rows", grid(nrows="-3"), "at least 2 rows")
    yield one("grid cut short", grid(nrows="30"), "but holds 12")
    yield one("grid too long", grid(nrows="2"), "but holds 12")
    yield one("grid of words", grid() + b" and then some", "not a number")
    yield one("grid of bytes", grid() + b"\0\1\2\xff", "not a number")
    empty = b"ncols 4\nnrows 3\ncellsize 2\nnodata_value 0\n" + b"0 " * 12
    yield one("grid without data", empty, "no heights at all")


def _tiff_in_a_circle() -> bytes:
    data = bytearray(tiff(np.zeros((4, 4), np.uint8)))
    at = struct.unpack_from("<I", data, 4)[0]
    count = struct.unpack_from("<H", data, at)[0]
    struct.pack_into("<I", data, at + 2 + 12 * count, at)  # the next page is this one
    struct.pack_into("<I", data, 4, len(data) + 5)  # and the first lies beyond the end
    return bytes(data)


def _tiff_that_claims(side: int) -> bytes:
    data = bytearray(tiff(np.zeros((300, 300), np.uint16)))
    at = struct.unpack_from("<I", data, 4)[0]
    for k in range(struct.unpack_from("<H", data, at)[0]):
        tag = struct.unpack_from("<H", data, at + 2 + 12 * k)[0]
        if tag in (256, 257):
            struct.pack_into("<HHII", data, at + 2 + 12 * k, tag, 4, 1, side)
    return bytes(data)


def models() -> Iterator[Hostile]:
    def one(case, data, says, name="x.glb", **beside):
        files = {name: data} | beside
        return Hostile(f"model {case}", "model", files, says, {"name": name})

    yield one("empty", b"", "not a GLB")
    yield one("noise", np.random.default_rng(1).bytes(400), "not a GLB")
    whole = glb(triangle(), TRIANGLE)
    for n, cut in enumerate((4, 12, 19, 30, 200, len(whole) - 20)):
        yield one(f"GLB cut {n}", whole[:cut], "not a GLB|damaged")
    yield one("GLB of version 1", whole[:4] + b"\1\0\0\0" + whole[8:], "not of version 2")
    yield one("GLB longer than it is", flipped(whole, 11), "damaged")
    deep = b"glTF" + struct.pack("<II", 2, 20 + 40_000) + struct.pack("<I4s", 40_000, b"JSON")
    yield one("GLB nested deep", deep + b"[" * 40_000, "damaged|nested too deep")
    yield one("GLB of nothing", glb({}), "no mesh|damaged")
    yield one("GLB that is a list", glb([]), "damaged")
    yield one("GLB with lights only", glb({"nodes": [{"name": "light"}]}), "no mesh")
    outside = triangle(buffers=[{"byteLength": 36, "uri": "../../etc/passwd"}])
    yield one("GLB that reads outside", glb(outside, TRIANGLE), "a file outside itself")
    web = triangle(images=[{"uri": "http://127.0.0.1:1/x.png"}])
    yield one("GLB that asks a server", glb(web, TRIANGLE), "a file outside itself")
    packed = triangle(extensionsRequired=["KHR_draco_mesh_compression"])
    yield one("GLB that is packed", glb(packed, TRIANGLE), "packed in a way")
    for count in (4, 10**6, 10**12, -1):
        accessor = triangle()["accessors"][0] | {"count": count}
        data = glb(triangle(accessors=[accessor]), TRIANGLE)
        yield one(f"GLB of {count} values", data, "more values than|claims more|damaged|no mesh")
    for key, wrong in (
        ("accessors", 7),
        ("bufferViews", [{"buffer": "a"}]),
        ("meshes", [{"primitives": 3}]),
        ("meshes", [{"primitives": [{"attributes": {}}]}]),
        ("nodes", [{"mesh": 99}]),
        ("nodes", "nodes"),
        ("accessors", [{"type": "VEC9", "count": 3, "componentType": 5126}]),
        ("accessors", [{"type": "VEC3", "count": "3", "componentType": 5126}]),
    ):
        data = glb(triangle(**{key: wrong}), TRIANGLE)
        says = "damaged|cannot be read|no mesh"
        yield one(f"GLB with wrong {key}: {str(wrong)[:20]}", data, says)
    circle = triangle(nodes=[{"mesh": 0, "children": [1]}, {"children": [0]}])
    yield one("GLB whose nodes turn in a circle", glb(circle, TRIANGLE), "parts do not fit")
    shared = triangle(nodes=_shared(25))
    yield one("GLB whose nodes share children", glb(shared, TRIANGLE), "parts do not fit")
    many = triangle(nodes=[{"mesh": 0}] * 100_000)
    yield one("GLB of 100,000 nodes", glb(many, TRIANGLE), "100,000 nodes")
    nan = np.full((3, 3), np.nan, "<f4").tobytes()
    yield one("GLB of no numbers", glb(triangle(), nan), "not numbers|no size|cannot be read")
    yield from _objs(one)


def _shared(depth: int) -> list[dict]:
    """Nodes each of which has the next one twice: 2 to the power of `depth` ways down."""
    twice = [{"children": [i + 1, i + 1]} for i in range(depth)]
    return [*twice, {"mesh": 0, "name": "tree"}]


def _objs(one) -> Iterator[Hostile]:
    plain = b"v 0 0 0\nv 1 0 0\nv 0 1 0\n"
    yield one("OBJ of blank lines", b"\n" * 200_000, "neither a GLB nor an OBJ", "x.obj")
    yield one("OBJ of blank lines, then a place", b"\n" * 200_000 + plain, "no faces", "x.obj")
    yield one("OBJ of spaces", b" " * 300_000 + plain + b" " * 300_000, "neither|no faces", "x.obj")
    yield one("OBJ without faces", plain, "no faces", "x.obj")
    yield one("OBJ with NUL", plain + b"f 1 2 3\n\0", "neither a GLB", "x.obj")
    yield one("OBJ of words", b"v one two three\nf a b c\n", "neither a GLB", "x.obj")
    yield one("OBJ that points too far", plain + b"f 1 2 9\n", "cannot be read", "x.obj")
    parts = b"".join(b"o n%d\nf 1 2 3\n" % i for i in range(60_000))
    yield one("OBJ of 60,000 parts", plain + parts, "60,000 objects", "x.obj")
    yield one("OBJ of too many", plain + b"f 1 2 3\n" * 1_500_001, "1,500,001 triangles", "x.obj")
    nan = plain.replace(b"1", b"nan") + b"f 1 2 3\n"
    yield one("OBJ of no numbers", nan, "not numbers", "x.obj")


def zone_maps() -> Iterator[Hostile]:
    def one(case, data, says):
        return Hostile(f"zones {case}", "zone_map", {"zones": data}, says, {"tolerance": 2.0})

    yield one("empty", b"", "can't be read as a picture")
    yield one("text", b"red green blue", "can't be read as a picture")
    for n, cut in enumerate((20, 60, 300)):
        yield one(f"cut {n}", png(channels=3)[:cut], "can't be read as a picture")
    yield one("too large", png_that_claims(30_000, 30_000, colour=2), "more than can be read")
    patches = np.random.default_rng(5).integers(0, 255, (8, 8, 3), np.uint8)
    wide = np.kron(patches, np.ones((12, 12, 1), np.uint8))
    yield one("too many colours", cv2.imencode(".png", wide)[1].tobytes(), "More than 32 colours")


def lines() -> Iterator[Hostile]:
    def one(case, data, says, heights=True):
        settings = {"plot": PLOT, "heights": heights}
        return Hostile(f"lines {case}", "lines", {"x": data}, says, settings)

    def svg(inner: str, head: str = "") -> bytes:
        return f'{head}<svg xmlns="http://www.w3.org/2000/svg">{inner}</svg>'.encode()

    bomb = "<!DOCTYPE s [<!ENTITY a 'aaaaaaaa'><!ENTITY b '&a;&a;&a;&a;'>]>"
    yield one("SVG with entities", svg("<path id='&b;'/>", bomb), "entities of its own")
    file = "<!DOCTYPE s [<!ENTITY a SYSTEM 'file:///etc/passwd'>]>"
    yield one("SVG that reads a file", svg("<path id='&a;'/>", file), "entities of its own")
    yield one("SVG cut", svg("<path d='M0 0 L 9 9'")[:60], "not an SVG")
    yield one("SVG of nothing", svg(""), "holds no lines")
    yield one("SVG nested deep", svg("<g>" * 5000 + "</g>" * 5000), "deep")
    yield one("SVG of very many", svg("<g/>" * 120_000), "over 100,000 elements")
    uses = "".join(
        f"<g id='u{i}'><use href='#u{i + 1}'/><use href='#u{i + 1}'/></g>" for i in range(40)
    )
    path = "<g id='u40'><path d='M0 0 L 9 9'/></g>"
    yield one("SVG of uses of uses", svg(uses + path), "unfolds to more than")
    circle = "<g id='a'><use href='#b'/></g><g id='b'><use href='#a'/></g><use href='#a'/>"
    yield one("SVG in a circle", svg(circle), "within itself")
    yield one("SVG without heights", svg("<path d='M0 0 L 9 9'/>"), "a path without a height")
    digits = svg("<path id='h²' d='M0 0 L 9 9'/>")
    yield one("SVG with another's digits", digits, "a path without a height")
    yield one("not JSON", b"lines, please", "is not GeoJSON")
    yield one("JSON cut", b'{"type": "FeatureCollection", "features": [', "is not GeoJSON")
    yield one("JSON nested deep", b'{"a":' * 50_000, "nested too deep")
    yield one("lists nested deep", b"[" * 50_000, "nested too deep")
    yield one("a number", b"5", "holds no lines")
    yield one("null", b"null", "holds no lines")
    yield one("bytes", b"\xff\xfe\x00{", "is not GeoJSON")
    feature = lambda at, **p: json.dumps(
        {"features": [{"properties": p, "geometry": {"type": "LineString", "coordinates": at}}]}
    ).encode()
    for wrong in (
        7,
        "abc",
        [1, 2],
        [[1]],
        [["a", "b"], ["c", "d"]],
        [None, None],
        [[{}, {}]],
        True,
    ):
        says = "as GeoJSON says|without a height|holds no lines"
        yield one(f"coordinates {wrong}", feature(wrong, ele=3), says)
    for wrong in (7, "f", [7], [None], {"a": 1}, [{"geometry": 3}], [{"properties": 4}]):
        data = json.dumps({"features": wrong}).encode()
        yield one(f"features {wrong}", data, "as GeoJSON says|holds no lines")
    yield one("far beyond", feature([[1e300, 0], [0, 1e300]], ele=3), "as GeoJSON says")
    infinite = feature([[0, 0], [9, 9]], ele=3).replace(b"9", b"1e999")
    yield one("infinite", infinite, "as GeoJSON says")
    for height in ("²", "high", None, [1], {"a": 1}, True, "1e999", ""):
        data = feature([[0, 0], [9, 9]], ele=height)
        yield one(f"a height of {height}", data, "a line without a height")
    yield one("degrees", feature([[7.1, 46.2], [7.2, 46.3]], ele=3), "longitude and latitude")


def positions() -> Iterator[Hostile]:
    def one(case, data, says, name="x.csv"):
        return Hostile(f"places {case}", "positions", {name: data}, says, {"plot": PLOT})

    yield one("empty", b"", "no columns for east and north")
    yield one("without columns", b"a,b,c\n1,2,3\n", "east and north; it has: a, b, c")
    yield one("without rows", b"name,east,north\n", "holds no places")
    yield one("without numbers", b"name,east,north\noak,here,there\n", "holds no places")
    yield one("of NUL", b"east,north\n\0,\0\n", "holds no places")
    yield one("infinite", b"east,north\ninf,nan\n1e999,3\n", "holds no places")
    yield one("far beyond", b"east,north\n1e300,4\n", "holds no places")
    long = b'name,east,north\n"' + b"x" * 140_000 + b'",1,2\n'
    yield one("a long field", long, "a line of 140,00")
    split = b'name,east,north\n"' + b"x\n" * 140_000 + b'",1,2\n'
    yield one("a field over many lines", split, "cannot be read|holds no places")
    names = "name,east,north\n" + "".join(f"n{chr(97 + i % 26)}{i}x,1,2\n" for i in range(2500))
    yield one("very many names", names.encode(), "2,500 names")
    yield one("bytes", np.random.default_rng(3).bytes(300), "no columns|holds no places|cannot be")
    yield one("JSON cut", b'{"features": [', "is not GeoJSON", "x.json")
    yield one("JSON nested deep", b'{"a":' * 50_000, "nested too deep", "x.json")
    for wrong in (7, "f", [7], [None], [{"geometry": {"type": "Point", "coordinates": 5}}]):
        data = json.dumps({"features": wrong}).encode()
        yield one(f"features {wrong}", data, "as GeoJSON says|holds no places", "x.geojson")
    for at in ([], [1], ["a", "b"], [None, None], [{}, []], [1e300, 2]):
        point = {"geometry": {"type": "Point", "coordinates": at}, "properties": {"name": "oak"}}
        data = json.dumps({"features": [point]}).encode()
        yield one(f"a point {at}", data, "as GeoJSON says|holds no places", "x.geojson")
    yield one("GLB cut", b"glTF\2\0", "damaged", "x.glb")
    yield one("GLB whose nodes share children", glb({"nodes": _shared(25)}), "two parents", "x.glb")
    circle = glb({"nodes": [{"name": "a", "children": [1]}, {"name": "b", "children": [0]}]})
    yield one("GLB in a circle", circle, "within itself", "x.glb")
    far = glb({"nodes": [{"name": "a", "translation": [1e300, 0, 0]}]})
    yield one("GLB far beyond", far, "holds no places", "x.glb")
    for wrong in ({"matrix": [1]}, {"rotation": [1]}, {"translation": "abc"}, {"children": [7]}):
        data = glb({"nodes": [{"name": "a", **wrong}]})
        yield one(f"GLB with {wrong}", data, "damaged", "x.glb")


def textures() -> Iterator[Hostile]:
    def one(case, says, **files):
        return Hostile(f"texture {case}", "texture", files, says, {"mend": False})

    yield one("without colour", "needs a picture of its colour", height=png(64, 64))
    yield one("tiny", "too small for a texture", colour=png(8, 8, 3))
    yield one("too large", "too large", colour=png_that_claims(9000, 9000, colour=2))
    for role in ("colour", "normal", "roughness", "packed", "height"):
        files = {"colour": png(64, 64, 3), role: b"not a picture"}
        yield one(f"{role} of words", f"{role} picture cannot be read", **files)
        files = {"colour": png(64, 64, 3), role: png(64, 64, 3)[:900]}
        yield one(f"{role} cut", f"{role} picture is damaged", **files)

    def ground(case, says, **files):
        return Hostile(f"ground picture {case}", "ground_picture", files, says)

    yield ground("of words", "picture cannot be read", colour=b"words")
    yield ground("cut", "picture cannot be read", colour=png(64, 64, 3)[:900])
    yield ground("of a line", "cannot be laid", colour=png(64, 1, 3))
    yield ground("too large", "cannot be laid", colour=png_that_claims(17_000, 20, colour=2))
    yield ground("with relief of words", "relief cannot", colour=png(64, 64, 3), height=b"words")

    def packed(case, data, says):
        return Hostile(f"texture zip {case}", "texture_zip", {"x.zip": data}, says)

    yield packed("of words", b"words", "damaged or of a kind")
    bomb = io.BytesIO()
    with zipfile.ZipFile(bomb, "w", zipfile.ZIP_DEFLATED) as archive:
        archive.writestr("colour.png", b"\0" * (300 << 20))
    yield packed("that is a bomb", bomb.getvalue(), "more than a texture set")


def packages() -> Iterator[Hostile]:
    def one(case, data, says):
        return Hostile(f"package {case}", "scene_file", {"x.zip": data}, says, {"measured": False})

    mask = {"rasters/a.png": png()}
    whole = package(SCENE, mask)
    yield one("empty", b"", "not a zip")
    yield one("noise", np.random.default_rng(2).bytes(300), "not a zip")
    for n, cut in enumerate((10, 100, len(whole) - 10)):
        yield one(f"cut {n}", whole[:cut], "not a zip")
    other = package("{}").replace(b"scene.json", b"other.json")
    yield one("without a scene", other, "no scene.json")
    for path in ("../../etc/x", "/etc/x", "a/../../x", "C:\\x"):
        yield one(f"with the path {path}", package(SCENE, {path: b"x"}), "a path outside itself")
    yield one("that is a bomb", package(SCENE, {"a.bin": b"\0" * (40 << 20)}), "far more than it")
    many = {f"f{i}": b"" for i in range(4100)}
    yield one("of 4,100 files", package(SCENE, many), "far more than it should")
    for manifest in ([], 3, "text", {"files": 3}, {"files": "text"}):
        says = "manifest or scene is not laid out"
        yield one(f"with the manifest {manifest}", package(SCENE, mask, manifest), says)
    yield one("with a wrong sum", package(SCENE, mask, _told("0" * 64)), "not the one that the man")
    yield one("without its raster", package(SCENE), "missing from the zip")
    for scene, says in (
        ("[]", "not laid out"),
        ("null", "not laid out"),
        ("{", "The zip is damaged"),
        ("\xff", "The zip is damaged"),
        ('{"a":' * 20_000, "nested too deep|damaged"),
    ):
        yield one(f"whose scene is {scene[:8]}", package(scene), says)
    for name in ("sow-scene-2", "sow-scene-99"):
        yield one(f"of {name}", package({**SCENE, "format": name}, mask), "by a newer Sow")
    for name in ("sow-scene-²", "sow-scene-x", "other-1", 7):
        yield one(f"of {name}", package({**SCENE, "format": name}, mask), "format")
    yield one("with words for a raster", package(SCENE, {"rasters/a.png": b"words"}), "no picture")
    kind = {**SCENE, "planting": [{"id": "p", "name": "p", "mix": [{"kind": "own-models/a.glb"}]}]}
    files = {**mask, "models/a.glb": b"words"}
    yield one("with words for a model", package(kind, files), "is no GLB")
    for case, data in _kinds():
        files = {**mask, "models/a.glb": data}
        yield one(f"whose model has {case}", package(kind, files), "model of a kind is damaged")
    broken = bytearray(whole)
    at = broken.find(b"IDAT")
    broken[at + 20] ^= 0xFF
    yield one("whose raster is flipped", bytes(broken), "is damaged")
    locked = bytearray(whole)
    for mark, flags in ((b"PK\x03\x04", 6), (b"PK\x01\x02", 8)):
        locked[locked.find(mark) + flags] |= 1
    yield one("that is locked", bytes(locked), "damaged")


def _kinds() -> Iterator[tuple[str, bytes]]:
    """Files of kinds, each with one thing wrong."""
    whole = kind_glb(kinds["flagstone"])
    size = struct.unpack_from("<I", whole, 12)[0]
    body = whole[28 + size :]

    def changed(change) -> bytes:
        document = json.loads(whole[20 : 20 + size])
        change(document, document["extras"]["sow"])
        return glb(document, body)

    for key, value in (
        ("variants", 10**9),
        ("variants", "many"),
        ("far_m", [1] * 50),
        ("family", "dragons"),
        ("height_m", "tall"),
        ("height_m", 1e999),
        ("colour", [1, 2]),
        ("feet", [[1]]),
    ):
        yield f"{key} {str(value)[:12]}", changed(lambda _, facts: facts.update({key: value}))
    yield "no facts", changed(lambda document, _: document.pop("extras"))
    yield "no meshes", changed(lambda document, _: document.update(meshes=[]))
    far = {"count": 10**9}
    yield "too many values", changed(lambda document, _: document["accessors"][0].update(far))
    wide = {"type": "VEC2"}
    yield "places of two", changed(lambda document, _: document["accessors"][0].update(wide))
    yield "half of its bytes", whole[: len(whole) // 2]


def _exr(values: np.ndarray) -> bytes:
    with tempfile.TemporaryDirectory() as folder:
        path = Path(folder) / "a.exr"
        OpenEXR.File({"type": OpenEXR.scanlineimage}, {"RGB": values}).write(str(path))
        return path.read_bytes()


def skies() -> Iterator[Hostile]:
    """Panoramas and cards."""

    def one(case, data, says, name="a.exr", reader="panorama"):
        return Hostile(f"{reader} {case}", reader, {name: data}, says)

    sound = _exr(np.ones((16, 32, 3), np.float32))
    window = sound.index(b"dataWindow") + len(b"dataWindow\0box2i\0") + 4
    huge = sound[:window] + struct.pack("<iiii", 0, 0, 2**30, 2**29) + sound[window + 16 :]
    backward = sound[:window] + struct.pack("<iiii", 9, 9, -9, -9) + sound[window + 16 :]
    yield one("empty", b"", "no picture that is known")
    yield one("text", b"a sky", "no picture that is known")
    yield one("EXR of claims", huge, "16384 across|damaged")
    yield one("EXR turned inside out", backward, "damaged|twice as wide")
    yield one("EXR of half its bytes", sound[: len(sound) // 2], "damaged")
    yield one("EXR with a bit turned", flipped(sound, 4), "damaged")
    head = b"#?RADIANCE\nFORMAT=32-bit_rle_rgbe\n\n"
    yield one("HDR of claims", head + b"-Y 15000 +X 30000\n\0", "16384 across", "a.hdr")
    yield one("HDR without an end", head + b"-Y 64 +X 128\n\2\2\0", "damaged", "a.hdr")
    yield one("HDR without sizes", b"#?RGBE\n\n", "damaged", "a.hdr")
    for value, says in (
        (np.nan, "no numbers"),
        (-1, "below nought"),
        (1e30, "no light that a sky"),
    ):
        sky = np.ones((16, 32, 3), np.float32)
        sky[2, 2] = value
        yield one(f"EXR of {value}", _exr(sky), says)
    yield one("PNG of claims", png_that_claims(40_000, 20_000), "16384 across", "a.png")
    yield one("square PNG", png(32, 32), "twice as wide", "a.png")
    yield one("of claims", png_that_claims(40_000, 20_000), "pixels", "c.png", "card")
    yield one("of noise", b"\x89PNG" + bytes(90), "no picture|damaged", "c.png", "card")
    clear = cv2.imencode(".png", np.zeros((8, 8, 4), np.uint8))[1].tobytes()
    yield one("that is clear", clear, "transparent all over", "c.png", "card")


def luts() -> Iterator[Hostile]:
    """Look-up tables of colours."""

    def one(case, data, says, name="a.cube"):
        return Hostile(f"lut {case}", "lut", {name: data}, says)

    values = b"0 0 0\n1 0 0\n0 1 0\n1 1 0\n0 0 1\n1 0 1\n0 1 1\n1 1 1\n"
    sound = b"LUT_3D_SIZE 2\n" + values
    yield one("empty", b"", "no look-up table")
    yield one("of text", b"a film", "no look-up table")
    yield one("of another sort", sound, "known here", "a.txt")
    yield one("of claims", b"LUT_3D_SIZE 4000\n" + values, "no look-up table|memory")
    yield one("of half its entries", sound[:-20], "no look-up table")
    yield one("of words", sound.replace(b"1 0 0", b"x y z"), "no look-up table")
    yield one("of vast numbers", sound.replace(b"1 1 0", b"1e30 1 0"), "no colours|no look-up")
    yield one("of noise", bytes(range(256)) * 9, "no look-up table", "a.3dl")
    entity = (
        b'<!DOCTYPE a [<!ENTITY b "cccccccccc"><!ENTITY d "&b;&b;&b;&b;">]>'
        b'<ProcessList id="x" compCLFversion="3"><Description>&d;</Description></ProcessList>'
    )
    yield one("of entities", entity, "no look-up table", "a.clf")


def _told(sha: str) -> dict:
    return {"format": "sow-package-1", "files": [{"path": "rasters/a.png", "sha256": sha}]}


def corpus() -> list[Hostile]:
    """Every hostile file."""
    sorts = (elevations, models, zone_maps, lines, positions, textures, packages, skies, luts)
    return [h for sort in sorts for h in sort()]
