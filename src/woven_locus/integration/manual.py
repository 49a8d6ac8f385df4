"""The manual page, made of what the command line says of itself."""

from __future__ import annotations

import click

from woven_locus.version import __version__


def _text(text: str) -> str:
    """Plain text as roff: nothing in it is a request or an escape."""
    found = text.replace("\\", "\\e").replace("-", "\\-").replace("'", "\\(aq")
    return f"\\&{found}" if found.startswith((".", "\\(aq")) else found


def _lines(text: str | None) -> list[str]:
    return [_text(line.strip()) for line in (text or "").splitlines() if line.strip()]


def manual(group: click.Group) -> str:
    """man(7) of a program and all its verbs."""
    name = "woven-locus"
    context = click.Context(group, info_name=name)
    found = [
        f'.TH WOVEN\\-LOCUS 1 "" "Woven Locus {__version__}" "User commands"',
        ".SH NAME",
        f"{_text(name)} \\- {_text('lay out, judge and route the grids of games')}",
        ".SH SYNOPSIS",
        f".B {_text(name)}",
        "[\\fIVERB\\fR] [\\fIOPTION\\fR ...] [\\fIARGUMENT\\fR ...]",
        ".SH DESCRIPTION",
        *_lines(group.help),
        ".SH VERBS",
    ]
    for verb in group.list_commands(context):
        command = group.get_command(context, verb)
        assert command is not None
        inner = click.Context(command, info_name=verb, parent=context)
        usage = " ".join(command.collect_usage_pieces(inner)).replace("[OPTIONS]", "").split()
        found += [f".SS {_text(' '.join([verb, *usage]))}", *_lines(command.help)]
        for option in command.params:
            if isinstance(option, click.Option):
                names = ", ".join([*option.opts, *option.secondary_opts])
                meta = "" if option.is_flag else f" {option.make_metavar(inner)}"
                found += [".TP", f".B {_text(names + meta)}", *(_lines(option.help) or ["\\&"])]
    found += [
        ".SH EXIT STATUS",
        "0: fine. 1: the answer is \\(lqno\\(rq, or findings were made. 2: bad usage or unreadable input.",
        ".SH ENVIRONMENT",
        ".TP",
        ".B WOVEN_LOCUS_TRACEBACK",
        "Says where a bug in the program is.",
    ]
    return "\n".join(found) + "\n"
