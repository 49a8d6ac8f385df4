"""What the keys and menus of Build do with what is in hand or selected."""

from __future__ import annotations

from woven_locus.core import edits
from woven_locus.core.edits import blocks, many
from woven_locus.core.errors import WovenError
from woven_locus.core.geometry import Cell, cell_text
from woven_locus.core.kinds.turns import flipped
from woven_locus.core.placing import Blocker, nearest_spot
from woven_locus.ui.language import tr
from woven_locus.ui.session.session import Session
from woven_locus.ui.tools.choose import ToolBox
from woven_locus.ui.tools.survey import ActorTool

# More structures than this are demolished in the background.
_MANY = 1_000


class Building:
    """The commands of Build; `actions.table` gives them their keys."""

    def __init__(self, session: Session, tools: ToolBox) -> None:
        self._session, self._tools = session, tools

    @property
    def _actor_in_hand(self) -> bool:
        """Whether the tool in use is the actor's, and there is one."""
        there = self._session.choices.survey.actor is not None
        return isinstance(self._tools.current, ActorTool) and there

    def turn(self, quarter_turns: int) -> None:
        """Turn what is in hand, or the selected structure where it stands."""
        session, hand = self._session, self._session.hand
        if not hand.empty:
            if not hand.turned(quarter_turns) and hand.kind is not None:
                session.say(
                    tr("{kinds} is not turned", kinds=session.plan.kinds[hand.kind].name), "no"
                )
        elif session.selection.front:
            row = session.plan.register[session.selection.front]
            turn = session.plan.kinds[row.kind].next_turn(row.turn, quarter_turns)
            session.attempt(edits.move, session.plan, row.number, row.cell, turn)
        else:
            session.say(
                tr("Nothing to turn: take a kind off the shelf or select a structure"), "no"
            )

    def mirror(self) -> None:
        """Mirror what is in hand, or the selected structure where it stands."""
        session, hand = self._session, self._session.hand
        if not hand.empty:
            if not hand.mirrored() and hand.kind is not None:
                name = session.plan.kinds[hand.kind].name
                session.say(
                    tr("{name} is not mirrored; its kind can be changed to allow it", name=name),
                    "no",
                )
        elif session.selection.front:
            row = session.plan.register[session.selection.front]
            session.attempt(edits.move, session.plan, row.number, row.cell, flipped(row.turn))
        else:
            session.say(
                tr("Nothing to mirror: take a kind off the shelf or select a structure"), "no"
            )

    @property
    def can_demolish(self) -> bool:
        """Whether there is something that `demolish` would take away."""
        return bool(self._session.selection.numbers) or self._actor_in_hand

    def demolish(self) -> None:
        """Demolish what is selected; the actor goes while its tool is in hand."""
        session = self._session
        if session.selection.numbers:
            numbers = tuple(session.selection.numbers)
            if len(numbers) <= _MANY:
                session.attempt(edits.demolish, session.plan, numbers)
            else:
                # So that the journal's part is packed elsewhere.
                session.work(tr("Demolish"), lambda plan, _control: edits.demolish(plan, numbers))
        elif self._actor_in_hand:
            session.set_actor(None)
        else:
            session.say(tr("Select a structure first, then demolish it"), "no")

    def go_near(self) -> None:
        """Hold the ghost on the nearest spot where it may stand."""
        ghost = self._session.hand.ghost
        if ghost is None:
            self._session.say(tr("Take a kind in hand and point at a place first"), "no")
            return
        if ghost.verdict:
            self._session.say(tr("It may stand here"))
            return

        def done(spot: Cell | None) -> None:
            if self._session.hand.ghost is not ghost:
                return
            if spot is None:
                self._session.say(
                    tr(
                        "There is no spot on this plan where {kind} may stand", kind=ghost.kind.name
                    ),
                    "no",
                )
                return
            self._session.reveal.emit(spot)
            self._session.pointer.to(self._session.hand.point_for(spot))
            self._session.say(
                tr("{spot} is the nearest spot; Enter puts it there", spot=cell_text(spot))
            )

        spot = self._session.hand.near()
        if spot is not None:
            done(spot)
            return
        self._session.asking.ask(
            tr("Looking for the nearest spot"),
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
        self._session.say(
            tr("{blocker} is at {cell}", blocker=blocker.name, cell=cell_text(blocker.cell))
        )

    def select_everything(self) -> None:
        self._session.selection.select_all(
            self._session.plan.register.numbers(), self._session.plan.spec.box
        )
        self._session.say(
            tr("Selected {count:,} structures", count=len(self._session.selection.numbers))
        )

    def nudge(self, cols: int, rows: int) -> None:
        """Move what is selected by cells, all together or not at all."""
        if self._session.selection.numbers:
            self._session.attempt(
                many.move_by, self._session.plan, self._session.selection.numbers, cols, rows
            )
        else:
            self._session.say(tr("Select a structure first, then nudge it"), "no")

    def copy(self) -> bool:
        """Keep what is selected, with the roads of the rectangle dragged over it."""
        session = self._session
        try:
            block = blocks.copied(session.plan, session.selection.numbers, session.selection.area)
        except WovenError as err:
            session.say(tr(err), "no")
            return False
        session.hand.copy(block)
        session.say(tr("Copied {words}; Ctrl+V takes it in hand", words=block.words))
        return True

    def paste(self) -> None:
        """Take what was copied in hand."""
        session = self._session
        if session.hand.clipboard is None:
            session.say(tr("Nothing was copied yet: select something, then Ctrl+C"), "no")
            return
        session.ending.emit()  # while what it is done to is still selected
        session.selection.select_all(())
        session.hand.take_block(session.hand.clipboard)
        session.taken_up.emit()

    def replace_under(self) -> None:
        """Put the kind in hand in place of the one structure under its ghost."""
        ghost = self._session.hand.ghost
        if ghost is None or ghost.lifted:
            self._session.say(tr("Take a kind in hand and point at the structure to replace"), "no")
            return
        covered = self._session.plan.footprint(ghost.kind, ghost.turn).at(ghost.cell)
        under = sorted({who for who in map(self._session.plan.occupant_at, covered) if who > 0})
        if len(under) != 1:
            self._session.say(
                tr(
                    "A replacement needs one structure under it, here are {count}", count=len(under)
                ),
                "no",
            )
            return
        key, cell, turn = ghost.kind.key, ghost.cell, ghost.turn
        when = self._session.document.now()
        if self._session.attempt(
            edits.replace_with, self._session.plan, under[0], key, cell, turn, when
        ):
            self._session.placed()
