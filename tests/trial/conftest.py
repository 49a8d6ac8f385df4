"""Plans that trials are of."""

from pathlib import Path

import pytest

from tests.helpers.builders import draw, put
from woven_locus.core.vehicles import Spacing, TrafficPlan, Trip, TripRule
from woven_locus.files import plan_json
from woven_locus.package_data import package_data


@pytest.fixture
def folder(tmp_path: Path) -> Path:
    town = draw("......\n======\n..=...\n..=...\n......", cell=(24, 24))
    put(town, "hut", 0, 0)
    put(town, "hut", 3, 3)
    rule = TripRule("hut", "hut", depart=0.0, every=4.0, count=3, spacing=Spacing.CHANCE)
    town.traffic = TrafficPlan(trips=(Trip(1, 2, 0.0, "", 5.0, 4),), rules=(rule,))
    plan_json.save(town, tmp_path / "town.plan.json")
    (tmp_path / "thornmoth.plan.json").write_bytes(
        package_data("woven_locus.demo", "thornmoth-pass.plan.json")
    )
    return tmp_path
