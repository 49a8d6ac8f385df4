"""The entry point: verbs, exit codes, and the one place where errors become messages."""

from __future__ import annotations

import os
import sys
import traceback
from collections.abc import Sequence
from contextlib import suppress
from importlib import import_module

import click

from woven_locus.core.errors import WovenError
from woven_locus.core.names import one_line
from woven_locus.libraries import missing_library
from woven_locus.version import __version__

# Verb -> module in this package; each module has a click command of the verb's name.
VERBS = (
    *("open", "demo", "new", "snap", "probe", "place", "route", "links", "lanes", "traffic"),
    *("waves", "proof", "vectors", "handover", "compare", "merge", "serve"),
    "trial",
    *("import", "export", "integrate"),
)

EXIT_NO, EXIT_BAD, EXIT_CRASH = 1, 2, 70


class Verbs(click.Group):
    """Loads a verb's module when it is used, and takes a bare PLAN for `open PLAN`."""

    def list_commands(self, ctx: click.Context) -> list[str]:
        return list(VERBS)

    def get_command(self, ctx: click.Context, cmd_name: str) -> click.Command | None:
        if cmd_name not in VERBS:
            return None
        module = import_module(f"woven_locus.cli.{cmd_name}_verb")
        return module.command  # type: ignore[no-any-return]

    def resolve_command(
        self, ctx: click.Context, args: list[str]
    ) -> tuple[str | None, click.Command | None, list[str]]:
        if args and args[0] not in VERBS and not args[0].startswith("-"):
            # Something that looks like a file is a plan to open; anything else is a mistyped verb.
            if args[0] == "-" or "." in args[0] or "/" in args[0]:
                args = ["open", *args]
            else:
                raise click.UsageError(
                    f"no verb {args[0]!r}; the verbs are {', '.join(VERBS)}, or name a plan file"
                )
        return super().resolve_command(ctx, args)


@click.group(
    cls=Verbs,
    invoke_without_command=True,
    context_settings={"help_option_names": ["-h", "--help"], "show_default": True},
)
@click.version_option(__version__, prog_name="woven-locus")
@click.pass_context
def woven_locus(ctx: click.Context) -> None:
    """Snap, judge, place, record and route on a grid, with the working shown.

    Without a verb the window opens. Cells are COL,ROW; a structure is S and its number (S12).
    Exit 0: fine. 1: the answer is "no". 2: bad usage or unreadable input.
    """
    if ctx.invoked_subcommand is None:
        opened = woven_locus.get_command(ctx, "open")
        assert opened is not None
        ctx.invoke(opened, plan=None)


def main(args: Sequence[str] | None = None) -> int:
    """Run; returns the exit code. Never a traceback for what a user can get wrong."""
    try:
        code = woven_locus.main(args=args, prog_name="woven-locus", standalone_mode=False)
        sys.stdout.flush()
        return code if isinstance(code, int) else 0
    except click.ClickException as err:
        where = f"{err.ctx.command_path}: " if getattr(err, "ctx", None) else ""  # type: ignore[attr-defined]
        click.echo(one_line(f"{where}{err.format_message()}"), err=True)
        return EXIT_BAD
    except (click.Abort, KeyboardInterrupt):
        click.echo("stopped", err=True)
        return EXIT_BAD
    except WovenError as err:
        click.echo(str(err), err=True)
        return EXIT_BAD
    except ImportError as err:
        return _not_there(err)
    except BrokenPipeError:
        # The reader of our output went away (head, say); nothing is left to tell it.
        _give_up_output()
        return EXIT_BAD
    except OSError as err:
        _give_up_output()
        click.echo(f"standard output cannot be written: {err.strerror or err}", err=True)
        return EXIT_BAD
    except Exception as err:  # noqa: BLE001 - a bug, told in one line; its exit code is its own
        return _bug(err)


def _bug(err: Exception) -> int:
    if os.environ.get("WOVEN_LOCUS_TRACEBACK"):
        traceback.print_exception(err)
    from woven_locus.reports import reporter

    words = one_line(f"{type(err).__name__}: {err}")
    path = reporter.write(err)
    where = f"{path} says where" if path is not None else "WOVEN_LOCUS_TRACEBACK=1 says where"
    click.echo(
        f"woven-locus: this is a bug in the program ({words[:300]}); nothing was written over. {where}",
        err=True,
    )
    return EXIT_CRASH


def _not_there(err: ImportError) -> int:
    """A package, or a library of the system, that only the window needs."""
    words = missing_library(err)
    if not words and (err.name or "").split(".")[0] in ("PyQt6", "pyqtgraph"):
        words = "the window is not installed: pip install 'woven-locus[desktop]'"
    if not words:
        return _bug(err)
    click.echo(words, err=True)
    return EXIT_BAD


def _give_up_output() -> None:
    """Nothing more can be written: not at the end of the process either."""
    with suppress(OSError):
        os.dup2(os.open(os.devnull, os.O_WRONLY), 1)


def run() -> None:
    sys.exit(main())
