"""The sheet that hands the plan over to a game: source in a language, and test vectors to hold it to."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path

from PyQt6.QtWidgets import QCheckBox, QLineEdit, QPushButton, QWidget

from woven_locus.core import handover
from woven_locus.document.saving import settled_snapshot
from woven_locus.files import plan_json
from woven_locus.files.atomic import write_bytes
from woven_locus.files.handover_folder import source_texts, write_folder
from woven_locus.files.vectors_json import MOST_CASES, vectors_bytes
from woven_locus.ui.jobs.pool import Control
from woven_locus.ui.language import tr
from woven_locus.ui.parts.form_sheet import FormSheet
from woven_locus.ui.parts.widgets import ComboBox, Label, side_by_side, whole_box
from woven_locus.ui.session.session import Session
from woven_locus.ui.theme import em

# The plan as it is, beside the questions about it: nobody's own file has that name.
PLAN, VECTORS = "handed-over.plan.json", "vectors.json"


class HandoverSheet(FormSheet):
    """Writes to a folder; files that somebody changed there stay, unless that is ticked."""

    def __init__(self, session: Session, choose: Callable[[str], str], parent: QWidget) -> None:
        """choose : asks for a folder, by a title; empty for none."""
        super().__init__(tr("Hand over to a game"), tr("Write"), parent)
        self._session, self._choose = session, choose
        self.language = ComboBox()
        self.language.setAccessibleName(tr("Language"))
        for item in handover.LANGUAGES.values():
            self.language.addItem(item.name, item.key)
        self.folder = QLineEdit()
        self.folder.setAccessibleName(tr("Folder"))
        self.folder.setMinimumWidth(em(260))
        self.pick = QPushButton(tr("Choose…"))
        self.pick.setAccessibleName(tr("Choose the folder"))
        self.pick.setAutoDefault(False)
        self.pick.clicked.connect(self._pick)
        self.vectors = whole_box(1000, 0, MOST_CASES, tr("Test vectors"))
        self.seed = whole_box(0, 0, 2**31 - 1, tr("Seed"))
        self.over = QCheckBox(tr("Replace files that were changed"))
        self.says = Label()
        self.says.setWordWrap(True)
        self.says.setMinimumWidth(em(220))
        self.form.addRow(tr("Language"), self.language)
        self.form.addRow(tr("Folder"), side_by_side(self.folder, self.pick))
        self.form.addRow(tr("Test vectors"), self.vectors)
        self.form.addRow(tr("Seed"), self.seed)
        self.form.addRow("", self.over)
        self.side.addWidget(self.says)
        self.side.addStretch(1)
        self.language.currentIndexChanged.connect(lambda _at: self._look())
        self.folder.textChanged.connect(lambda _text: self._look())
        self.accepted.connect(self._write)
        self._look()

    def _pick(self) -> None:
        if chosen := self._choose(tr("Where the source goes")):
            self.folder.setText(chosen)

    @property
    def _chosen(self) -> handover.Language:
        return handover.LANGUAGES[self.language.currentData()]

    def _look(self) -> None:
        language = self._chosen
        built = tr("Built with  {build}\n", build=language.build) if language.build else ""
        self.says.setText(
            tr(
                "Source without dependencies that follows this plan's rules, and a runner that answers test vectors.\n\n{needs}.\n{built}Run with  {run} {plan} {vectors}",
                needs=language.needs,
                built=built,
                run=language.run,
                plan=PLAN,
                vectors=VECTORS,
            )
        )
        self.show_problem("" if self.folder.text().strip() else tr("Choose a folder"))

    def _write(self) -> None:
        session, language = self._session, self._chosen
        folder = Path(self.folder.text().strip()).expanduser()
        count, seed, over = self.vectors.value(), self.seed.value(), self.over.isChecked()
        plan, path = session.plan, session.document.path
        name = path.name if path is not None else "plan.plan.json"

        def write(control: Control) -> int:
            twin = settled_snapshot(plan, control)
            texts = source_texts(twin, language, name)
            write_folder(folder, texts, over)
            if count:
                write_bytes(folder / PLAN, plan_json.dump(twin))
                write_bytes(folder / VECTORS, vectors_bytes(twin, seed, count))
            return len(texts) + 2 * bool(count)

        session.jobs.start(
            tr("Writing {language}", language=language.name),
            write,
            lambda files: session.say(
                tr("Wrote {files} files to {folder}", files=files, folder=folder)
            ),
            lambda error: session.say(tr("{error}. The plan is as it was.", error=error), "error"),
            lambda: session.say(
                tr("Stopped: some files may have been written to {folder}", folder=folder)
            ),
        )
