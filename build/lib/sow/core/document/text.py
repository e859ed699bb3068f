"""Text from outside, made harmless before it is kept, shown or written."""

import re
import unicodedata
from typing import Annotated

from pydantic import AfterValidator

FORMULA = ("=", "+", "-", "@", "\t", "\r")
# marks that turn the direction of what follows them, and those that hide
HIDDEN = {"Cc", "Cf", "Cs", "Co", "Cn"}
BREAKS = "\r\n\t\x0b\x0c\x85\u2028\u2029"
JOINERS = {"\u200c", "\u200d"}  # two words or two signs become one in some scripts


def harmless(text: str) -> str:
    """Text on one line, without control characters and marks that turn or hide it."""
    return "".join(
        " " if c in BREAKS else c
        for c in text
        if c in BREAKS or c in JOINERS or unicodedata.category(c) not in HIDDEN
    )


def plain_text(text: str) -> str:
    """Harmless text without loose space."""
    return re.sub(r" +", " ", harmless(text)).strip()


def _named(text: str) -> str:
    name = harmless(text)
    if not name.strip():
        raise ValueError("a name needs a character that can be seen")
    return name


Name = Annotated[str, AfterValidator(_named)]


def cell(text: str) -> str:
    """Text for a cell of a table: one that a spreadsheet would take for a formula is led by an
    apostrophe (OWASP, CSV injection).
    """
    return f"'{text}" if text.startswith(FORMULA) else text


def file_stem(text: str, plain: str = "scene") -> str:
    """Text as the name of a file: letters, digits and dashes only, at most 80, never empty."""
    return re.sub(r"[^A-Za-z0-9]+", "-", text).strip("-")[:80] or plain
