"""Vehicles that are under way when the roads change: they stay where they are if their lane does, and find a new
way where the old one is gone. Who stands on a lane that is no more leaves the road, by number.

The run goes on as another one, made for the plan as it is now.
"""

from woven_locus.core.traffic.replan.carry import carried_over

__all__ = ["carried_over"]
