"""What a screen reader is told, asked by AT-SPI. Run by Debian's own Python, which has its bindings, beside a window on the
same bus; nothing of ours is imported.

Writes one JSON document: every part with its role, name, description and states, and what the sheet said of itself while
the arrow keys moved the cell cursor.
"""

import json
import sys
import time

import gi

gi.require_version("Atspi", "2.0")
from gi.repository import Atspi, GLib  # noqa: E402 - the version comes first

# As X names them.
KEYS = {"Right": 0xFF53, "Down": 0xFF54}
# Seconds: a limit for what hangs, far beyond what a slow machine needs.
PATIENCE = 300.0


def waited(asked):
    """What is there, as soon as it is."""
    until = time.monotonic() + PATIENCE
    while time.monotonic() < until:
        found = asked()
        if found:
            return found
        time.sleep(0.02)
    sys.exit("it never came")


def application():
    desk = Atspi.get_desktop(0)
    for at in range(desk.get_child_count()):
        one = desk.get_child_at_index(at)
        if one is not None and one.get_name() == "woven-locus":
            return one
    return None


def parts(node):
    """It and all that is in it."""
    yield node
    for at in range(node.get_child_count()):
        child = node.get_child_at_index(at)
        if child is not None:
            yield from parts(child)


def sheet_of(app):
    return next((part for part in parts(app) if (part.get_name() or "").startswith("Sheet")), None)


def row(node):
    states = node.get_state_set()
    return {
        "role": node.get_role_name(),
        "name": node.get_name() or "",
        "description": node.get_description() or "",
        "focusable": states.contains(Atspi.StateType.FOCUSABLE),
        "showing": states.contains(Atspi.StateType.SHOWING),
    }


def settled(app):
    """The rows of all parts, once two looks in a row are the same: nothing comes any more."""
    before = [None]

    def same():
        now = [row(part) for part in parts(app)]
        is_same, before[0] = now == before[0], now
        return now if is_same else None

    return waited(same)


def heard_while(press, many):
    """Descriptions that the sheet announced by itself."""
    heard = []

    def listen(event):
        if (event.source.get_name() or "").startswith("Sheet"):
            heard.append(event.source.get_description())

    listener = Atspi.EventListener.new(listen)
    listener.register("object:property-change:accessible-description")
    context = GLib.MainContext.default()

    def one_more(before):
        context.iteration(False)
        return len(heard) > before

    for at in range(many):
        press()
        waited(lambda at=at: one_more(at))
    return heard


def main():
    app = waited(application)
    sheet = waited(lambda: sheet_of(app))
    tree = settled(app)
    sheet.grab_focus()
    before = waited(sheet.get_description)

    def press():
        Atspi.generate_keyboard_event(KEYS["Right"], None, Atspi.KeySynthType.SYM)

    heard = heard_while(press, 3)
    told = {"tree": tree, "before": before, "after": sheet.get_description(), "heard": heard}
    sys.stdout.write(json.dumps(told))


main()
