"""Every list of conditions of a scene, by its place in the document."""

from collections.abc import Iterator

from ..scene import Scene


def lists_of(scene: Scene) -> Iterator[tuple[str, list]]:
    """Path and conditions of each list of what is on, from the land to the planting."""
    for i, entry in enumerate(scene.land):
        if entry.on:
            yield f"land.{i}.where", entry.where
            for j, stroke in enumerate(getattr(entry, "strokes", [])):
                yield f"land.{i}.strokes.{j}.where", stroke.where
    for i, material in enumerate(scene.ground):
        if material.on:
            yield f"ground.{i}.where", material.where
    for i, sowing in enumerate(scene.planting):
        if sowing.on:
            yield f"planting.{i}.where", sowing.where
            for k, part in enumerate(sowing.mix):
                yield f"planting.{i}.mix.{k}.where", part.where
