"""The tools of Waves as buttons and actions show them."""

from __future__ import annotations

from woven_locus.ui.session.stages import WaveTool

# Icon, key, what it does.
TOOLS = {
    WaveTool.SELECT: ("select", "Shift+A", "Select structures, look at attackers"),
    WaveTool.ENTRY: ("entry", "Shift+I", "Set where attackers come from"),
    WaveTool.GOAL: ("goal", "Shift+G", "Set where attackers go to"),
    WaveTool.CLEAR: ("clear", "Shift+X", "Clear cells of entries and goals"),
}
