"""Everything that a window has for the document it shows: the session, the tools, and what is worked out."""

from __future__ import annotations

from PyQt6.QtCore import QObject

from woven_locus.document import Document
from woven_locus.ui.answers.compared import ComparedKeeper
from woven_locus.ui.answers.explained import ExplainedSearch
from woven_locus.ui.answers.junctions import JunctionKeeper
from woven_locus.ui.answers.lanes import LaneKeeper
from woven_locus.ui.answers.measures import MeasureKeeper
from woven_locus.ui.answers.network import NetworkStudy
from woven_locus.ui.answers.proof import ProofKeeper
from woven_locus.ui.answers.remedies import RemedyKeeper
from woven_locus.ui.answers.reported import ReportedAgents
from woven_locus.ui.answers.routes import RouteKeeper
from woven_locus.ui.answers.stretch import StretchKeeper
from woven_locus.ui.answers.traffic import TrafficKeeper
from woven_locus.ui.answers.wave_trials import HoldKeeper, RewardKeeper
from woven_locus.ui.answers.wave_ways import CutKeeper, GainKeeper, NarrowKeeper, WaysKeeper
from woven_locus.ui.answers.waves import WaveKeeper
from woven_locus.ui.answers.where import WhereKeeper
from woven_locus.ui.session.session import Session
from woven_locus.ui.tools.building import Building
from woven_locus.ui.tools.choose import ToolBox


class Desk(QObject):
    """Made before any panel, so that what is worked out here is current when a panel hears of a change."""

    def __init__(self, document: Document, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self.session = Session(document, self)
        self.routes = RouteKeeper(self.session)
        self.traffic = TrafficKeeper(self.session)
        self.junctions = JunctionKeeper(self.session, self.traffic)
        self.measures = MeasureKeeper(self.session, self.traffic)
        self.waves = WaveKeeper(self.session)
        self.wave_ways = WaysKeeper(self.session)
        self.gains = GainKeeper(self.session, self.wave_ways)
        self.cuts = CutKeeper(self.session, self.wave_ways)
        self.narrow = NarrowKeeper(self.session, self.wave_ways)
        self.holding = HoldKeeper(self.session)
        self.rewards = RewardKeeper(self.session)
        self.tools = ToolBox(self.session, self.routes, self.traffic, self.junctions, self.waves)
        self.lanes = LaneKeeper(self.session, self.routes)
        self.stretch = StretchKeeper(self.session, self.traffic, self.lanes)
        self.remedies = RemedyKeeper(self.session, self.traffic)
        self.where = WhereKeeper(self.session)
        self.study = NetworkStudy(self.session, self.routes)
        self.proof = ProofKeeper(self.session, self.study)
        self.compared = ComparedKeeper(self.session)
        self.reported = ReportedAgents(self.session)
        self.search = ExplainedSearch(self.session)
        self.building = Building(self.session, self.tools)
