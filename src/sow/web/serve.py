"""What gunicorn loads."""
import os
import threading

from .app import create_app

app = create_app(os.environ["SOW_DATABASE"])


def _open_drawers():
    """Shapes and pictures of the cabinet are made ahead, so that the first scene need not wait for them."""
    from ..core.cabinet import grounds, kinds
    for item in [*grounds.values(), *kinds.values()]:
        item.maps() if hasattr(item, "maps") else item.shape()


threading.Thread(target=_open_drawers, daemon=True).start()
