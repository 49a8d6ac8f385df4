"""What the keys and menus of Build do with what is in hand or selected."""

from __future__ import annotations

from typing import TYPE_CHECKING

from woven_locus.core import edits
from woven_locus.core.edits import blocks, many
from woven_locus.core.errors import WovenError
from woven_locus.core.geometry import Cell, cell_text
from woven_locus.core.placing import Blocker, nearest_spot

if TYPE_CHECKING:
    from woven_locus.ui.session.session import Session


class Building:
    def __init__(self, session: Session) -> None:
        self._session = session

    def go_near(self) -> None:
        """Hold the ghost on the nearest spot where it may stand."""
        ghost = self._session.ghost
        if ghost is None:
            self._session.say("Take a kind in hand and point at a place first", "no")
            return
        if ghost.verdict:
            self._session.say("It may stand here")
            return

        def done(spot: Cell | None) -> None:
            if self._session.ghost is not ghost:
                return
            if spot is None:
                self._session.say(
                    f"There is no spot on this plan where {ghost.kind.name} may stand", "no"
                )
                return
            self._session.reveal.emit(spot)
            self._session.set_hover(self._session.hand.point_for(spot))
            self._session.say(f"{cell_text(spot)} is the nearest spot; Enter puts it there")

        spot = self._session.hand.near()
        if spot is not None:
            done(spot)
            return
        self._session.asking.ask(
            "Looking for the nearest spot",
            lambda plan, _control: nearest_spot(
                plan, ghost.kind, ghost.turn, ghost.cell, ghost.lifted
            ),
            done,
        )

    def go_to(self, blocker: Blocker) -> None:
        """Show what is in the way, and select it when it can be."""
        self._session.reveal.emit(blocker.cell)
        if blocker.what == "structure" and blocker.id is not None:
            number = int(blocker.id[1:])
            if number in self._session.plan.register:
                self._session.select(number, reveal=True)
        self._session.say(f"{blocker.name} is at {cell_text(blocker.cell)}")

    def select_everything(self) -> None:
        self._session.select_all(self._session.plan.register.numbers(), self._session.plan.spec.box)
        self._session.say(f"Selected {len(self._session.chosen):,} structures")

    def nudge(self, cols: int, rows: int) -> None:
        """Move what is selected by cells, all together or not at all."""
        if self._session.chosen:
            self._session.attempt(
                many.move_by, self._session.plan, self._session.chosen, cols, rows
            )
        else:
            self._session.say("Select a structure first, then nudge it", "no")

    def copy(self) -> bool:
        """Keep what is selected, with the roads of the rectangle dragged over it."""
        try:
            self._session.clipboard = blocks.copied(
                self._session.plan, self._session.chosen, self._session.area
            )
        except WovenError as err:
            self._session.say(str(err), "no")
            return False
        self._session.say(f"Copied {self._session.clipboard.words}; Ctrl+V takes it in hand")
        self._session.tool_changed.emit()
        return True

    def paste(self) -> None:
        """Take what was copied in hand."""
        if self._session.clipboard is None:
            self._session.say("Nothing was copied yet: select something, then Ctrl+C", "no")
            return
        self._session.end_stroke()
        self._session.select_all(())
        self._session.hand.take_block(self._session.clipboard)
        self._session.in_hand()
        self._session.taken_up.emit()

    def replace_under(self) -> None:
        """Put the kind in hand in place of the one structure under its ghost."""
        ghost = self._session.ghost
        if ghost is None or ghost.lifted:
            self._session.say("Take a kind in hand and point at the structure to replace", "no")
            return
        covered = self._session.plan.footprint(ghost.kind, ghost.turn).at(ghost.cell)
        under = sorted({who for who in map(self._session.plan.occupant_at, covered) if who > 0})
        if len(under) != 1:
            self._session.say(
                f"A replacement needs one structure under it, here are {len(under)}", "no"
            )
            return
        key, cell, turn = ghost.kind.key, ghost.cell, ghost.turn
        when = self._session.document.now()
        if self._session.attempt(
            edits.replace_with, self._session.plan, under[0], key, cell, turn, when
        ):
            self._session.placed()
