"""Parts of scenes taken into others: a land, a set of materials, the planting, a light, from
another scene or an older version.
"""

import copy
import json

from .errors import SceneError
from .scene import LISTS, Scene, read_scene

PARTS = {
    "land": ("land", "beyond"),
    "water": ("water",),
    "ground": ("ground",),
    "planting": ("planting",),
    "pieces": ("pieces",),
    "light": ("light", "air"),
    "shots": ("shots", "grade"),
    "moves": ("moves",),
    "marks": ("marks",),
}


def renamed(value, names: dict[str, str]):
    """A plain value with every string that is one of `names` replaced."""
    if isinstance(value, dict):
        return {k: renamed(v, names) for k, v in value.items()}
    if isinstance(value, list):
        return [renamed(v, names) for v in value]
    return names.get(value, value) if isinstance(value, str) else value


def _entries(document: dict):
    for name in LISTS:
        yield from document.get(name, [])
    for name in ("land", "ground"):
        yield from document.get("beyond", {}).get(name, [])


def alone(document: Scene, part: str) -> dict:
    """A scene that holds one part of `document` and the marks that it refers to, and nothing
    else.
    """
    whole = document.model_dump(mode="json")
    kept = {k: whole[k] for k in ("format", "name", "plot")} | {
        name: whole[name] for name in PARTS[part]
    }
    text = json.dumps(kept)
    kept["marks"] = (
        whole["marks"] if part == "marks" else [m for m in whole["marks"] if f'"{m["id"]}"' in text]
    )
    return read_scene(kept).model_dump(mode="json")


def taken(into: Scene, source: Scene, part: str, add: bool = False, same: bool = False) -> Scene:
    """`into` with one part replaced by that of `source`, or with its entries added to the end of
    its own.

    The marks that the part refers to come with it. When both are versions of the same scene
    (`same`), marks and entries of one id are one thing, and marks that are still there stay as they
    are now; else an id that `into` uses for something else is changed on the way.
    """
    if part not in PARTS:
        raise SceneError(f"There is no part '{part}'.", "part", f"Parts: {', '.join(PARTS)}.")
    if add and part in ("light",):
        raise SceneError("A scene has one light.", "add", "Replace it instead.")
    out, given = into.model_dump(mode="json"), alone(source, part)
    if not add:
        for name in PARTS[part]:
            out[name] = [] if isinstance(out[name], list) else None
    out["beyond"] = out["beyond"] or {}
    there = {e["id"]: e for e in _entries(out)}
    names: dict[str, str] = {}
    for entry in _entries(given):
        own = entry["id"]
        if (
            own in there
            and not same
            and there[own] != entry
            or own in there
            and add
            and entry not in given["marks"]
        ):
            k = 2
            while f"{own[:58]}.{k}" in there or f"{own[:58]}.{k}" in names.values():
                k += 1
            names[own] = f"{own[:58]}.{k}"
    given = renamed(given, names)
    for name in PARTS[part]:
        if isinstance(given[name], list):
            out[name] = (out[name] if add else []) + copy.deepcopy(given[name])
        elif name == "beyond" and add:
            for own in ("land", "ground"):
                out[name][own] = out[name].get(own, []) + given[name][own]
        else:
            out[name] = given[name]
    if part != "marks":
        held = {m["id"] for m in out["marks"]}
        out["marks"] += [m for m in given["marks"] if m["id"] not in held]
    return read_scene(out)


def differences(a: Scene, b: Scene) -> list[dict]:
    """What was added, taken away or changed from `a` to `b`, part by part; parts that are the same
    are left out.
    """
    out = []
    da = a.model_dump(mode="json")
    db = b.model_dump(mode="json")
    for part in LISTS:
        was, now = ({e["id"]: e for e in d[part]} for d in (da, db))
        line = {
            "part": part,
            "added": [e["name"] for i, e in now.items() if i not in was],
            "removed": [e["name"] for i, e in was.items() if i not in now],
            "changed": [now[i]["name"] for i in was if i in now and was[i] != now[i]],
        }
        if not any((line["added"], line["removed"], line["changed"])) and list(was) != list(now):
            line["changed"] = ["their order"]
        if any((line["added"], line["removed"], line["changed"])):
            out.append(line)
    for part, label in (
        ("plot", "the plot"),
        ("beyond", "beyond the plot"),
        ("light", "light and air"),
        ("season", "the season"),
        ("budget", "the budget"),
        ("name", "the name"),
    ):
        if da[part] != db[part]:
            out.append({"part": part, "added": [], "removed": [], "changed": [label]})
    return out
