"""The tools of Waves as buttons and actions show them."""

from __future__ import annotations

from woven_locus.ui.session.stages import WaveTool

# Icon, key, what it does.
TOOLS = {
    WaveTool.SELECT: ("select", "Shift+V", "Select structures, look at attackers"),
    WaveTool.ENTRY: ("entry", "Shift+N", "Set where attackers come from"),
    WaveTool.GOAL: ("goal", "Shift+G", "Set where attackers go to"),
    WaveTool.CLEAR: ("clear", "Shift+O", "Clear cells of entries and goals"),
}
