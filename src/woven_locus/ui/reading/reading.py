"""The Reading: lens, working, verdict and selection, always current."""

from __future__ import annotations

import math
from collections import Counter
from collections.abc import Sequence
from operator import attrgetter

from PyQt6.QtGui import QResizeEvent
from PyQt6.QtWidgets import QHBoxLayout, QPushButton, QWidget

from woven_locus.core.geometry import Box, Point, Slot, cell_text
from woven_locus.core.grid import Holding, SnapSettings
from woven_locus.core.grid.snapping import number, working
from woven_locus.core.ground.relief import slope
from woven_locus.core.kinds import Kind
from woven_locus.core.kinds.turns import turn_words
from woven_locus.core.phrase import joined
from woven_locus.core.placing import Verdict, judge_cells
from woven_locus.core.plan import Plan
from woven_locus.core.register import Structure
from woven_locus.ui.desk import Desk
from woven_locus.ui.icons import dress
from woven_locus.ui.language import counted, shown, tr
from woven_locus.ui.parts.widgets import FigureLines, Page, figures, has_room, heading, muted, rule
from woven_locus.ui.reading.cell_words import ground_words, size_words, thing_words
from woven_locus.ui.reading.lens import Lens
from woven_locus.ui.reading.run_lines import RunLines
from woven_locus.ui.reading.vehicle import lane_lines
from woven_locus.ui.reading.verdict import VerdictView
from woven_locus.ui.session.pointer import Hover
from woven_locus.ui.session.stages import Stage, WayTool
from woven_locus.ui.theme import Theme, em

# The fewest pixels that one may make of it.
LEAST = 220


class Reading(Page):
    def __init__(self, desk: Desk, theme: Theme) -> None:
        super().__init__("reading")
        self._desk, session = desk, desk.session
        self._session = session
        self.setMinimumWidth(LEAST)
        self.lens = Lens(session, theme)
        self.column.addWidget(self.lens)
        self.where = FigureLines()
        self.column.addWidget(self.where)
        self.vehicle = RunLines(desk)
        self.column.addWidget(self.vehicle)
        self.column.addWidget(rule())
        self.working_title = heading(tr("Working"))
        self.column.addWidget(self.working_title)
        self.working = FigureLines()
        self.column.addWidget(self.working)
        self.column.addWidget(rule())
        self.verdict = VerdictView(theme)
        self.verdict.followed.connect(desk.building.go_to)
        self.column.addWidget(self.verdict)
        self.advice = muted()
        self.column.addWidget(self.advice)
        self.column.addWidget(rule())
        self.column.addWidget(heading(tr("Selection")))
        self.selection = figures()
        self.selection.setWordWrap(True)
        self.column.addWidget(self.selection)
        self._buttons = QWidget()
        row = QHBoxLayout(self._buttons)
        row.setContentsMargins(0, 0, 0, 0)
        row.setSpacing(6)
        self.move_button = QPushButton(tr("Move"))
        self.turn_button = QPushButton(tr("Turn"))
        self.demolish_button = QPushButton(tr("Demolish"))
        self.move_button.clicked.connect(self._lift)
        self.turn_button.clicked.connect(lambda: desk.building.turn(1))
        self.demolish_button.clicked.connect(desk.building.demolish)
        for button in (self.move_button, self.turn_button, self.demolish_button):
            row.addWidget(button)
        self._theme = theme
        theme.changed.connect(self._dress)
        self._dress()
        self.column.addWidget(self._buttons)
        self.column.addStretch(1)
        session.pointer.moved.connect(self._pointer_moved)
        desk.lanes.changed.connect(self._show_place)
        session.choices.changed.connect(lambda _which: self._show_pointer())
        session.hand.changed.connect(self._show_pointer)
        session.hand.judged.connect(self._show_verdict)
        desk.tools.stroked.connect(self._show_verdict)
        session.selection.changed.connect(self._show_selection)
        session.changed.connect(lambda _notice: self._edited())
        session.choices.stage_changed.connect(self._show_pointer)
        session.replaced.connect(self._replaced)
        self._show_pointer()
        self._show_selection()

    def _lift(self) -> None:
        self._session.lift(self._session.selection.front)
        self._session.taken_up.emit()

    def _dress(self) -> None:
        for button, icon in (
            (self.move_button, "move"),
            (self.turn_button, "turn-right"),
            (self.demolish_button, "demolish"),
        ):
            dress(button, icon, self._theme.palette)
            # Three labels and icons share the width of the panel.
            button.setStyleSheet("padding-left: 4px; padding-right: 4px;")

    def fit(self) -> None:
        """Be wide enough for the buttons below what is selected, whether or not they show, where the window has the room:
        a splitter gives what it gets to the sheet."""
        margins, bar = self.column.contentsMargins(), self.verticalScrollBar()
        assert bar is not None
        wide = margins.left() + margins.right() + bar.sizeHint().width()
        needed = self._buttons.sizeHint().width() + wide
        self.setMinimumWidth(max(LEAST, needed) if has_room(self, needed) else LEAST)

    def resizeEvent(self, event: QResizeEvent | None) -> None:
        super().resizeEvent(event)
        # Closer together on a low window; the lens keeps a shape in which a cell can be seen, and what does
        # not fit is scrolled to.
        tall = self.height()
        lens, gap = (140, 8) if tall >= em(780) else (100, 6) if tall >= em(690) else (84, 4)
        self.lens.setFixedHeight(lens)
        self.column.setSpacing(gap)

    def _replaced(self) -> None:
        self._show_pointer()
        self._show_selection()

    def _edited(self) -> None:
        # What is in hand was judged anew before anybody heard of the edit.
        self._pointer_moved()
        self._show_selection()

    def _pointer_moved(self) -> None:
        """What is in hand is judged at each move, and shown then."""
        self._show_place()
        if self._session.hand.empty:
            self._show_verdict()

    def _show_pointer(self) -> None:
        self._show_place()
        self._show_verdict()

    def _show_place(self) -> None:
        session = self._session
        hover = session.pointer.hover
        settings = session.choices.snap
        self.working_title.setText(tr("Working: {rule}", rule=tr(settings.rule.value)))
        if hover is None:
            self.where.setText("\n" * (8 if session.plan.heights is not None else 7))
            self.working.setText("\n" * 5)
            return
        self.where.setText("\n".join(self._where(hover)))
        lines = working(session.plan.spec, settings, *hover.point)
        self.working.setText("\n".join(map(shown, lines)))

    def _show_verdict(self) -> None:
        hand, hover = self._session.hand, self._session.pointer.hover
        self._advise()
        if hover is None and hand.ghost is None and hand.block_ghost is None:
            self.verdict.show_verdict(tr("May I build here?"), None)
        else:
            self.verdict.show_verdict(*self._judgement(hover))

    def _where(self, hover: Hover) -> list[str]:
        plan = self._session.plan
        spec, cell = plan.spec, hover.cell
        centre = spec.centre(cell)
        at = hover.snapped.at
        addressed = plan.may_address(cell)
        where = tr("the window") if hover.inside else tr("the grid")
        strict = (
            tr("{cell}  index {index}", cell=cell_text(cell), index=spec.index(cell))
            if addressed
            else tr("no cell")
        )
        strict += "" if addressed else tr(", outside {where}", where=where)
        lines = [
            tr("pointer   {x}, {y}", **_xy(hover.point)),
            tr("snapped   {x}, {y}", **_xy(at)),
            tr("moved     {x}, {y}", **_xy(Point(at.x - hover.point.x, at.y - hover.point.y))),
            tr("strict    {strict}", strict=strict),
            tr("virtual   {cell}", cell=cell_text(cell)),
            tr("centre    {x}, {y}", **_xy(centre)),
        ]
        if _holds_a_size(self._session.choices.snap):
            lines.insert(3, tr("origin    {x}, {y}", **_xy(hover.snapped.origin)))
        if hover.inside:
            slot = spec.slot(cell)
            lines += [
                tr("terrain   {ground_words}", ground_words=ground_words(plan, cell)),
                tr("on it     {thing_words}", thing_words=thing_words(plan, cell) or tr("nothing")),
            ]
            if plan.heights is not None:
                lines.append(tr("height    {height}", height=_height(plan, slot)))
        else:
            lines += [tr("terrain   none"), tr("on it     nothing")]
            lines += [tr("height    none")] * (plan.heights is not None)
        if self._session.choices.stage is Stage.TRAFFIC:
            lines += lane_lines(self._desk.lanes, plan, hover)
        return lines

    def _advise(self) -> None:
        """What to do about a refusal."""
        session, text = self._session, ""
        ghost = session.hand.ghost
        if ghost is not None and not ghost.verdict:
            near = session.hand.near()
            text = tr("No spot close by; N looks over the whole plan")
            if near is not None:
                text = tr("Nearest spot: {near} (N goes there)", near=cell_text(near))
        elif ghost is not None and ghost.verdict.doubts:
            text = tr("Allowed, but {doubts}", doubts=joined("; ", ghost.verdict.doubts))
        if text != self.advice.text():
            self.advice.setText(text)
        self.advice.setVisible(bool(text))

    def _judgement(
        self, hover: Hover | None
    ) -> tuple[str, Verdict | None, Plan | None, Kind | None]:
        session = self._session
        ghost, block = session.hand.ghost, session.hand.block_ghost
        if ghost is not None:
            what = tr("{kind} at {cell}", kind=ghost.kind.name, cell=cell_text(ghost.cell))
            verdict = ghost.verdict
            return f"{what}: {_word(verdict)}", verdict, session.plan, ghost.kind
        if block is not None:
            word = _word(block.verdict)
            title = tr("Block at {cell}: {word}", cell=cell_text(block.cell), word=word)
            return title, block.verdict, None, None
        assert hover is not None
        if session.choices.stage is Stage.WAYS:
            verdict_here = self._desk.tools.current.marks()
            if verdict_here is not None:
                word = _word(verdict_here)
                what = tr("Barrier") if session.choices.ways.tool is WayTool.BARRIER else tr("Road")
                return (
                    tr(
                        "{what} at {cell}: {word}", what=what, cell=cell_text(hover.cell), word=word
                    ),
                    verdict_here,
                    None,
                    None,
                )
        verdict = judge_cells(session.plan, [hover.cell])
        title = tr("Build on {cell}: {word}", cell=cell_text(hover.cell), word=_word(verdict))
        return title, verdict, None, None

    def _show_selection(self) -> None:
        session = self._session
        self._buttons.setVisible(bool(session.selection.front))
        if not session.selection.front:
            self.selection.setText(tr("nothing selected"))
            return
        plan = session.plan
        for button in (self.move_button, self.turn_button):
            button.setEnabled(len(session.selection.numbers) == 1)
        if len(session.selection.numbers) > 1:
            rows = plan.register.those_of(session.selection.numbers)
            self.selection.setText("\n".join(many_lines(plan, rows)))
            return
        row = plan.register[session.selection.front]
        footprint = plan.footprint_of(row)
        linked = session.document.is_linked(row.number)
        turn = f", {tr(turn_words(row.turn))}" if row.turn else ""
        self.selection.setText(
            "\n".join(
                [
                    plan.title_of(row.number),
                    tr("cell      {cell}{turn}", cell=cell_text(row.cell), turn=turn),
                    tr("size      {size}", size=size_words(footprint)),
                    tr(
                        "paid      {price} {money}, {placed}",
                        price=row.price,
                        money=plan.money,
                        placed=row.placed[:10],
                    ),
                    tr("by road   {value}", value=tr("joined") if linked else tr("cut off")),
                ]
            )
        )


def many_lines(plan: Plan, rows: Sequence[Structure]) -> list[str]:
    """Several structures: how many of each kind, and what they cost."""
    counts = Counter[str]()
    # There may be thousands of them.
    for key, count in Counter(map(attrgetter("kind"), rows)).items():
        counts[plan.kinds[key].name] += count
    lines = [tr("{count:,} structures", count=len(rows))]
    lines += [f"{count:>5,}  {name}" for name, count in counts.most_common(5)]
    if len(counts) > 5:
        more = counted(len(counts) - 5, "and {n} kind more", "and {n} kinds more")
        lines.append(f"       {tr(more)}")
    lines.append(
        tr("paid {count:,} {money}", count=sum(map(attrgetter("price"), rows)), money=plan.money)
    )
    return lines


def _holds_a_size(settings: SnapSettings) -> bool:
    """Whether something with a size of its own is held."""
    return settings.holding is not Holding.POINT


def _height(plan: Plan, slot: Slot) -> str:
    """Height and slope of a slot."""
    assert plan.heights is not None
    height = float(plan.heights[slot])
    if math.isnan(height):
        return tr("not known")
    box = Box(slot.row, slot.col, slot.row + 1, slot.col + 1)
    rise = float(slope(plan.heights, plan.spec.cell_w, plan.spec.cell_h, box)[0, 0])
    return tr(
        "{height}, slope {degrees:.1f}°",
        height=number(round(height, 3)),
        degrees=math.degrees(math.atan(rise)),
    )


def _xy(point: Point) -> dict[str, str]:
    return {"x": number(point.x), "y": number(point.y)}


def _word(verdict: Verdict) -> str:
    return tr("yes") if verdict else tr("no")
