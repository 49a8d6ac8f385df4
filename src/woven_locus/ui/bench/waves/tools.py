"""The tools of Waves as buttons and actions show them."""

from __future__ import annotations

from woven_locus.ui.language import tr
from woven_locus.ui.session.stages import WaveTool

# Icon, key, what it does.
TOOLS = {
    WaveTool.SELECT: ("select", "Shift+V", tr("Select structures, look at attackers")),
    WaveTool.ENTRY: ("entry", "Shift+N", tr("Set where attackers come from")),
    WaveTool.GOAL: ("goal", "Shift+G", tr("Set where attackers go to")),
    WaveTool.CLEAR: ("clear", "Shift+O", tr("Clear cells of entries and goals")),
}
