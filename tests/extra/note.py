"""Exporter: a note with the highest place."""

from sow.core.document.entry import Strict
from sow.core.formats.exporter import Grown, exporter


class NoteFiles(Strict):
    feet: bool = False


@exporter("toy-note", "Toy note", NoteFiles)
def note(grown: Grown, options: NoteFiles) -> None:
    """note.txt with the highest place."""
    top = float(grown.build.heights.max())
    text = f"{top / 0.3048:.1f} ft\n" if options.feet else f"{top:.1f} m\n"
    (grown.out / "note.txt").write_text(text)
