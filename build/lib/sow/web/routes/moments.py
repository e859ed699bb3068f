"""Routes: a scene at moments."""

from ...core.motion.at import lasts_s, moments
from ...core.motion.base import Moment
from ..api import route
from ..shapes.moments import MomentLine, Moments, MomentsOrder, PieceStance
from ..working import document_of, draw_up


@route("POST", "/api/scenes/<int:scene>/moments", body=MomentsOrder, answer=Moments)
def list_moments(scene, body):
    """The scene at times, seen from a shot: its eye, its light, and where pieces are that move."""
    build = draw_up(document_of(scene, body))
    at = moments(build, body.shot)
    lines = [_line(at(t), build.scene.light) for t in body.times]
    first = at(0.0).shot
    looks = lambda shot: shot.model_dump(exclude={"name"})
    return Moments(
        lasts_s=lasts_s(build, body.shot.id),
        moves_eye=any(looks(line.shot) != looks(first) for line in lines),
        moments=lines,
    )


def _line(moment: Moment, own) -> MomentLine:
    return MomentLine(
        at_s=moment.at_s,
        shot=moment.shot,
        light=None if moment.light == own else moment.light,
        pieces=[PieceStance(id=k, **vars(v)) for k, v in moment.pieces.items()],
        waves_s=moment.waves_s,
        blown_s=moment.blown_s,
        wind=moment.wind,
    )
