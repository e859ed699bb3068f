"""supply"""

import threading
import uuid

from pydantic import Field

from ...core.errors import SceneError
from ...core.formats.ownkind import OwnKind
from ...sandbox import read
from ...store import rasters, scenes
from ...store.models import database
from ...supplier import Supplier, Unreachable
from ..api import route
from ..kinds import keep_kind, keep_model
from ..shapes.shape import ApiModel

SUPPLIER = Supplier()


class SupplyLine(ApiModel):
    name: str
    label: str
    sort: str
    note: str
    texture_px: list[int]
    triangles: list[int]


class SupplyOrder(ApiModel):
    texture_px: int = Field(512, ge=64, le=2048)
    triangles: int = Field(3000, ge=2, le=200_000)


class Supply(ApiModel):
    id: str
    item: str
    state: str = Field("running", description="running, done, failed")
    share: float = 0
    bytes: int = 0
    told: str = ""
    kind: str = Field("", description="The own kind that it became.")
    texture: str = Field("", description="The texture set that it became.")


_fetches: dict[str, Supply] = {}


@route("GET", "/api/supplier", answer=list[SupplyLine])
def supplier_listing():
    """What the supplier has."""
    return [SupplyLine(**i) for i in SUPPLIER.listing()]


@route("POST", "/api/supplier/<item>/fetches", body=SupplyOrder, answer=Supply)
def fetch_item(item, body):
    """Begins to fetch an item at a texture size and a number of triangles."""
    if item not in {i["name"] for i in SUPPLIER.listing()}:
        raise scenes.Missing(f"“{item}” at the supplier")
    found = Supply(id=uuid.uuid4().hex, item=item)
    while len(_fetches) > 60:
        _fetches.pop(next(iter(_fetches)))
    _fetches[found.id] = found
    threading.Thread(target=_fetch, args=(found, body), daemon=True).start()
    return found


@route("GET", "/api/fetches/<fetch>", answer=Supply)
def get_fetch(fetch):
    """How far a fetch is."""
    if fetch not in _fetches:
        raise scenes.Missing("such fetch")
    return _fetches[fetch]


def _fetch(job: Supply, order: SupplyOrder) -> None:
    """Nothing is kept before the whole file has come."""
    line = next(i for i in SUPPLIER.listing() if i["name"] == job.item)
    try:
        whole = bytearray()
        for piece, total in SUPPLIER.fetch(job.item, order.texture_px, order.triangles):
            whole += piece
            job.bytes, job.share = len(whole), len(whole) / total
        with database.connection_context():
            if line["sort"] == "kind":
                model = keep_model(f"{job.item}.glb", {f"{job.item}.glb": bytes(whole)})
                made = keep_kind(
                    model.source,
                    OwnKind(
                        **{
                            **model.settings,
                            "label": line["label"],
                            "tags": "supplier",
                            "most_triangles": max(12, order.triangles),
                        }
                    ),
                )
                job.kind = made.kind.name
            else:
                sheet = read("texture_zip", {job.item: bytes(whole)})["sheet"]
                job.texture = rasters.keep(sheet, f"texture: {line['label']}").hash
        job.state, job.share = "done", 1
    except Unreachable as e:
        job.state = "failed"
        job.told = f"{e} Nothing was kept; try again."
    except SceneError as e:
        job.state, job.told = "failed", f"{e.message} {e.advice}"
    except Exception as e:  # told to the page: a thread has no one else to tell
        job.state = "failed"
        job.told = f"It could not be kept: {str(e)[:200]}"
