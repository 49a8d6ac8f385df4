"""The actions of Waves."""

from __future__ import annotations

from woven_locus.files.formats import WAVE_IMPORTS
from woven_locus.ui.actions.action import Action, Host
from woven_locus.ui.actions.traffic_actions import has_waves, toggle
from woven_locus.ui.bench.waves.tools import TOOLS
from woven_locus.ui.language import tr
from woven_locus.ui.session.stages import Stage


def _in_waves(window: Host) -> bool:
    return window.session.choices.stage is Stage.WAVES


def _may_run(window: Host) -> bool:
    return _in_waves(window) and has_waves(window)


WAVES: tuple[Action, ...] = (
    *(
        Action(
            f"waves.{tool.name.lower()}",
            tr("W&aves"),
            words,
            key,
            lambda w, tool=tool: w.bench.waves.take(tool),  # type: ignore[misc]
            _in_waves,
            on_sheet=True,
        )
        for tool, (_icon, key, words) in TOOLS.items()
    ),
    Action(
        "waves.run",
        tr("W&aves"),
        tr("&Run, or pause"),
        "",
        toggle,
        _may_run,
        gap_before=True,
        on_sheet=True,
    ),
    Action(
        "waves.step",
        tr("W&aves"),
        tr("One &step"),
        "",
        lambda w: w.desk.waves.step(),
        _may_run,
        on_sheet=True,
    ),
    Action(
        "waves.again",
        tr("W&aves"),
        tr("Begin &again"),
        "",
        lambda w: w.desk.waves.clear(),
        lambda w: w.desk.waves.run is not None,
    ),
    Action(
        "waves.hold",
        tr("W&aves"),
        tr("&Will it hold?"),
        "",
        lambda w: w.desk.holding.ask(),
        has_waves,
        gap_before=True,
    ),
    Action(
        "waves.paid",
        tr("W&aves"),
        tr("Can it be &paid?"),
        "",
        lambda w: w.tray.show_rewards(),
        lambda w: has_waves(w) and w.session.plan.funds is not None,
    ),
    *(
        Action(
            f"waves.in_{form.partition('-')[0]}",
            tr("W&aves"),
            tr("Import {words}…", words=words),
            "",
            lambda w, form=form: w.exchange.waves_in(form),  # type: ignore[misc]
            gap_before=at == 0,
        )
        for at, (form, words) in enumerate(
            zip(
                WAVE_IMPORTS,
                (tr("&entries and goals"), tr("atta&ckers"), tr("wa&ves")),
                strict=True,
            )
        )
    ),
)
