"""Heights as a grey picture: which height is which grey."""

from __future__ import annotations

from PyQt6.QtWidgets import QWidget

from woven_locus.core.ground.height_range import HeightRange
from woven_locus.core.plan import Plan
from woven_locus.files import pictures
from woven_locus.ui.language import tr
from woven_locus.ui.parts.form_sheet import FormSheet
from woven_locus.ui.parts.widgets import WorldBox, muted


class GreySheet(FormSheet):
    """`scale` and `base` hold the answer: height = base + scale x grey."""

    def __init__(self, plan: Plan, depth: int, parent: QWidget | None) -> None:
        super().__init__(
            tr("Heights as {depth}-bit grey", depth=depth), tr("Choose the file…"), parent
        )
        self._most = (1 << depth) - 1
        self._range = HeightRange().of(plan.heights)
        self._unit = plan.spec.unit
        self._whole = pictures.whole_range(*self._range, depth)
        self.scale, self.base = WorldBox(1, 1e-8, 1e6), WorldBox(0, -1e6, 1e6)
        for box, words, value in (
            (self.scale, tr("Units for one grey"), self._whole[0]),
            (self.base, tr("Units at grey 0"), self._whole[1]),
        ):
            box.setDecimals(8)
            box.setValue(value)
            box.setAccessibleName(words)
            box.valueChanged.connect(self._work_out)
            self.form.addRow(words, box)
        self.says = muted()
        self.says.setMinimumWidth(260)
        self.side.addWidget(self.says)
        self.side.addStretch(1)
        self._work_out()

    @property
    def chosen(self) -> tuple[float, float]:
        """(scale, base), to the last digit where they were left as proposed."""
        found = []
        for box, whole in zip((self.scale, self.base), self._whole, strict=True):
            found.append(whole if abs(box.value() - whole) <= 1e-8 else box.value())
        return found[0], found[1]

    def _work_out(self) -> None:
        scale, base = self.chosen
        lowest, highest = self._range
        low, high = base, base + scale * self._most
        words = tr(
            "Heights of the plan: {lowest:.6g} to {highest:.6g} {unit}. The greys hold {low:.6g} to {high:.6g} in steps of {scale:.4g}.",
            lowest=lowest,
            highest=highest,
            unit=self._unit,
            low=low,
            high=high,
            scale=scale,
        )
        # Half a step to either side still rounds to a grey.
        if lowest < low - scale / 2 or highest > high + scale / 2:
            words += tr(" What lies beyond is cut off.")
        self.says.setText(words)
