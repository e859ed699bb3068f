"""Grades: a ready one taken, one carried from shot to shot."""

from ..errors import SceneError
from ..picture.grade.ready import READY
from ..picture.grade.tries import entries_of
from .base import Asked, Done, Hand, work


class ReadyGrade(Asked):
    name: str
    shot: str = ""


@work("ready grade", ReadyGrade)
def ready_grade(hand: Hand, asked: ReadyGrade) -> Done:
    """The steps of a ready grade in place of those of a shot."""
    if asked.name not in READY:
        raise SceneError(
            f"There is no grade '{asked.name}'.", "name", f"There are: {', '.join(READY)}."
        )
    kept = [e for e in hand.document["grade"] if e["shot"] != asked.shot]
    hand.document["grade"] = kept
    for _ in READY[asked.name][1]:
        kept.append({"id": hand.fresh_id("grade")})
    ids = iter([e["id"] for e in kept if len(e) == 1])
    made = entries_of(asked.name, asked.shot, lambda: next(ids))
    hand.document["grade"] = [e for e in kept if len(e) > 1] + made
    return Done(hand.document, f"Grade: {READY[asked.name][0].lower()}")


class CopyGrade(Asked):
    from_shot: str
    to_shot: str


@work("copy grade", CopyGrade)
def copy_grade(hand: Hand, asked: CopyGrade) -> Done:
    """The steps, film and exposure of one shot for another, in place of its own."""
    shots = {s["id"]: s for s in hand.document["shots"]}
    for name in (asked.from_shot, asked.to_shot):
        if name not in shots:
            raise SceneError(f"There is no shot '{name}'.", "shot", "It may have been removed.")
    own = [e for e in hand.document["grade"] if e["shot"] == asked.from_shot]
    hand.document["grade"] = [e for e in hand.document["grade"] if e["shot"] != asked.to_shot]
    for e in own:
        copied = {**e, "shot": asked.to_shot, "id": hand.fresh_id("grade")}
        hand.document["grade"].append(copied)
    for field in ("film", "exposure"):
        shots[asked.to_shot][field] = shots[asked.from_shot][field]
    return Done(hand.document, f"Grade of {shots[asked.from_shot]['name']} carried over")
