"""What an SVG would become, told from its elements before anything of it is drawn."""

import io
from collections import defaultdict
from xml.etree.ElementTree import ParseError, iterparse

from ..errors import SceneError

MOST_ELEMENTS = 100_000
MOST_DEPTH = 100
LINK = ("href", "{http://www.w3.org/1999/xlink}href")


def _refuse(name: str, what: str, advice: str) -> SceneError:
    return SceneError(f"“{name}” {what}.", "file", advice)


def check_svg(data: bytes, name: str) -> None:
    """Refuses an SVG that declares entities, is nested too deep, or whose uses of uses make more
    elements than are read.

    Raises SceneError.
    """
    if b"<!ENTITY" in data.upper():
        raise _refuse(name, "declares entities of its own, which are not read", "Save it plainly.")
    counts: dict[str, int] = defaultdict(int)  # elements within each one that has an id
    uses: dict[str, list[str]] = defaultdict(list)  # what is used within it
    open_ids: list[str] = [""]
    depth = total = 0
    try:
        for event, element in iterparse(io.BytesIO(data), ("start", "end")):
            if event == "end":
                depth -= 1
                open_ids.pop()
                element.clear()
                continue
            depth += 1
            total += 1
            open_ids.append(element.get("id") or open_ids[-1])
            if total > MOST_ELEMENTS or depth > MOST_DEPTH:
                raise _refuse(
                    name,
                    f"has over {MOST_ELEMENTS:,} elements, or nests them over {MOST_DEPTH} deep",
                    "Simplify it, or save its parts.",
                )
            within = set(open_ids)
            target = next((element.get(k) for k in LINK if element.get(k)), None)
            for own in within:
                counts[own] += 1
                if element.tag.endswith("use") and target and target.startswith("#"):
                    uses[own].append(target[1:])
    except ParseError as e:
        raise _refuse(
            name, f"is not an SVG that can be read ({e!s:.80})", "Save it as plain SVG."
        ) from None
    _unfolded(counts, uses, name)


def _unfolded(counts: dict[str, int], uses: dict[str, list[str]], name: str) -> None:
    """Refuses uses that come back to themselves or unfold to too many elements."""
    known: dict[str, int] = {}
    waiting = [("", iter(uses.get("", ())))]
    size = {"": counts.get("", 0)}
    on_way = {""}
    while waiting:
        here, rest = waiting[-1]
        below = next(rest, None)
        if below is None:
            waiting.pop()
            on_way.discard(here)
            known[here] = size[here]
            if waiting:
                size[waiting[-1][0]] += known[here]
        elif below in known:
            size[here] += known[below]
        elif below in on_way:
            raise _refuse(name, f"uses “{below[:40]}” within itself", "Save it with uses unfolded.")
        else:
            on_way.add(below)
            size[below] = counts.get(below, 0)
            waiting.append((below, iter(uses.get(below, ()))))
        if size[here] > MOST_ELEMENTS or len(waiting) > MOST_DEPTH:
            raise _refuse(
                name,
                f"unfolds to more than {MOST_ELEMENTS:,} elements",
                "Save it with uses unfolded, or simplify it.",
            )
