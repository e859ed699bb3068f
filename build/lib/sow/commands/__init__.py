"""The commands of Sow. One file is one command: its name, what it takes, what it does.

A file says in its docstring what it is for; `arguments(parser)` what it takes, where it takes
something; `run(args)` does it and gives the exit status, or nothing where all went well.
"""

import argparse
import importlib
import pkgutil
import sys
from types import ModuleType

from ..core.errors import SceneError

HELP = ("help", "-h", "--help")


def names() -> list[str]:
    """Every command."""
    return sorted(m.name for m in pkgutil.iter_modules(__path__) if not m.name.startswith("_"))


def command(name: str) -> ModuleType:
    """The file of a command; no other is read."""
    return importlib.import_module(f"{__name__}.{name}")


def parser_of(name: str) -> argparse.ArgumentParser:
    """What a command takes."""
    module = command(name)
    told = " ".join((module.__doc__ or "").split())
    parser = argparse.ArgumentParser(prog=f"sow {name}", description=told)
    arguments = getattr(module, "arguments", None)
    if arguments:
        arguments(parser)
    return parser


def usage() -> str:
    """All commands with what they take, as their parsers have it."""
    lines = ["Use: sow COMMAND ..., and sow COMMAND --help for what each is."]
    for name in names():
        parser = parser_of(name)
        taken = " ".join(parser.format_usage().split()[3:]).replace("[-h] ", "").replace("[-h]", "")
        lines += [f"  {name} {taken}".rstrip(), f"      {parser.description}"]
    return "\n".join(lines)


def main(argv: list[str] | None = None) -> int:
    """Runs one command; gives the exit status, 2 when the person must mend something."""
    given = sys.argv[1:] if argv is None else argv
    if not given or given[0] in HELP:
        print(usage())
        return 0
    if given[0] not in names():
        print(f"sow: there is no command '{given[0]}'. There are: {', '.join(names())}.")
        return 2
    try:
        args = parser_of(given[0]).parse_args(given[1:])
        return command(given[0]).run(args) or 0
    except SceneError as e:
        print(f"sow: {e}", file=sys.stderr)
        return 2


def run_main() -> None:
    """The installed command's own entry."""
    sys.exit(main())
