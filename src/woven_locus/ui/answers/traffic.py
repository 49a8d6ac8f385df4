"""Runs the core's simulation of traffic on the plan as it is: made, led on when the plan changes, taken away."""

from __future__ import annotations

from woven_locus.core.editing import Notice
from woven_locus.core.edits.traffic import set_trips
from woven_locus.core.lanes import LaneNetwork
from woven_locus.core.plan import Plan
from woven_locus.core.traffic import TrafficRun
from woven_locus.core.traffic.replan import carried_over
from woven_locus.core.traffic.trips import all_trips
from woven_locus.core.vehicles import NO_TRAFFIC, Trip
from woven_locus.document import PinnedRoute
from woven_locus.ui.answers.traffic_clock import TrafficClock
from woven_locus.ui.jobs.pool import Control
from woven_locus.ui.language import counted, tr
from woven_locus.ui.session.session import Session

# What a run cannot go on over, once it is another: every lane is elsewhere then.
_GROUND = frozenset({"keep", "grid"})
# More ways than these are not looked for on the interface's thread, however small the plan.
_FEW_WAYS = 200


class TrafficKeeper(TrafficClock):
    """See `TrafficClock`."""

    def __init__(self, session: Session) -> None:
        super().__init__(session)
        session.changed.connect(self._edited)
        session.settled.connect(self._settled)

    def _forget(self) -> None:
        super()._forget()
        self._of = NO_TRAFFIC  # what of the plan the run goes by

    # --- beginning and ending -----------------------------------------------------------------------

    def begin(self, go: bool) -> None:
        """Make a run of the plan's trips, and let it go or do its first step."""
        session = self._session
        if self.working:
            return
        if not (session.plan.traffic.trips or session.plan.traffic.rules):
            session.say(tr("There are no trips yet: ask for a route and add it as a trip"), "no")
            self.changed.emit()
            return

        seed = self.seed

        def make(plan: Plan, control: Control) -> tuple[TrafficRun, LaneNetwork | None]:
            trips, kinds = all_trips(plan, seed), plan.traffic.vehicles
            run = TrafficRun(plan, trips, kinds, seed=seed, stopped=control, progress=control.tell)
            return run, self._lanes_of(plan)

        def done(found: tuple[TrafficRun, LaneNetwork | None]) -> None:
            run, lanes = found
            self.take(run)
            self._of = session.plan.traffic
            if lanes is not None:
                session.plan.lanes.adopt(lanes)
            without = [way for way in run.ways if isinstance(way, str)]
            if without:
                count = len(without)
                session.say(
                    tr(
                        counted(
                            count,
                            "{n} trip has no way: {why}",
                            "{n} trips have no way: {why}",
                            why=without[0],
                        )
                    ),
                    "no",
                )
            self.set_running(go)
            if not go:
                self.step()

        label, here = tr("Making traffic ready"), self._here()
        self._work_out(label, make, done, at_once=here, of=Plan.snapshot)
        self.changed.emit()

    def _here(self, vehicles: int = 0) -> bool | None:
        """Whether ways are looked for on this thread: None, as the plan's size says, or not at all where there are many.
        vehicles : under way, which look for a way anew."""
        plan = self._session.plan
        rules = len(plan.traffic.rules) * len(plan.register)
        few = len(plan.traffic.trips) + rules + vehicles <= _FEW_WAYS
        return None if few else False

    def clear(self) -> None:
        """Take all vehicles away; the next run begins at 0."""
        self._stop()
        junction = self.junction
        self._forget()
        self.junction = junction
        self.changed.emit()
        self.moved.emit()

    # --- a plan that changes meanwhile ----------------------------------------------------------------

    def _edited(self, notice: Notice) -> None:
        run, plan = self.run, self._session.plan
        if run is None:
            return
        traffic = plan.traffic
        if notice.layers & _GROUND:
            self._end(tr("all lanes have moved"))
        elif (traffic.vehicles and traffic.vehicles != run.kinds) or traffic.people != run.people:
            self._end(tr("the kinds of vehicle or people changed"))
        elif (
            self._stale  # whatever it was asked, the plan has moved on
            or notice.reformed
            or "road" in notice.layers
            or notice.structures & run.structures
            or (notice.structures and traffic.rules)
        ):
            self._lead_on()
        elif "traffic" in notice.layers:
            self._trips_or_rules_changed(run, plan)

    def _trips_or_rules_changed(self, run: TrafficRun, plan: Plan) -> None:
        traffic, before = plan.traffic, self._of
        assert self.timeline is not None
        more = traffic.trips[len(before.trips) :]
        if traffic.longest_crossing != before.longest_crossing:
            run.walkers.longest = traffic.longest_crossing
            self.timeline.begin()
        others = traffic.trips[: len(before.trips)] != before.trips
        if traffic.rules != before.rules or others or len(more) > _FEW_WAYS:
            self._lead_on()
            return
        self._of = traffic
        earlier = any(trip.depart < run.seconds for trip in more) and run.steps > 0
        if more:
            run.add(plan, more)
        if traffic.junctions != run.junction_rules:
            run.obey(plan)
            earlier = True
        if earlier:
            # What was before would have gone another way.
            self.timeline.begin()
        self.changed.emit()

    def _lead_on(self) -> None:
        """The roads under it changed: it waits until its vehicles have found their ways anew."""
        self._wait()
        self._stop()
        if not self._session.document.history.in_gesture:
            self._ask_on()
        self.changed.emit()

    def _settled(self) -> None:
        """A gesture has ended, or an answer was of a plan that is no more."""
        if self._stale and not self.working and not self._session.document.history.in_gesture:
            self._ask_on()

    def _ask_on(self) -> None:
        session, run = self._session, self.run
        assert run is not None

        def work(plan: Plan, control: Control) -> tuple[TrafficRun, LaneNetwork | None]:
            return carried_over(run, plan, control), self._lanes_of(plan)

        def done(found: tuple[TrafficRun, LaneNetwork | None]) -> None:
            after, lanes = found
            if lanes is not None:
                session.plan.lanes.adopt(lanes)
            self._go_on_with(run, after)

        self._work_out(
            tr("Going on with traffic"),
            work,
            done,
            at_once=self._here(run.counts().under_way),
            of=Plan.snapshot,
            ended=lambda: self._end(tr("its vehicles could not go on")),
            dropped=self._settled,
            refused=lambda error: self._end(tr(error)),
        )

    def _lanes_of(self, plan: Plan) -> LaneNetwork | None:
        """What the open plan takes over, where it has no graph of its lanes yet: made on the thread that works, since copying a
        large one takes longer than a frame. The run keeps the plan that it was made of."""
        return None if self._session.plan.lanes.made else plan.lanes.copied(plan.road)

    def _go_on_with(self, before: TrafficRun, after: TrafficRun) -> None:
        self.take(after)
        self._of = self._session.plan.traffic
        self._stale, self.rings = False, []
        gone = after.taken_off[len(before.taken_off) :]
        if gone:
            names = ", ".join(gone[:6]) + (" …" if len(gone) > 6 else "")
            self._session.say(
                tr(
                    counted(
                        len(gone),
                        "{names} was taken off the road: its lane or way is gone",
                        "{names} were taken off the road: their lane or way is gone",
                        names=names,
                    )
                ),
                "no",
            )
        if self._resume:
            self.set_running(True)
        self.changed.emit()
        self.moved.emit()

    def _end(self, why: str) -> None:
        """The run is of a plan that is no more."""
        if self.run is None:
            return
        count = self.run.counts().under_way
        self.clear()
        if count:
            vehicles = counted(count, "{n:,} vehicle", "{n:,} vehicles")
            self._session.say(
                tr("Traffic was taken off the road, {vehicles}: {why}", vehicles=vehicles, why=why),
                "no",
            )

    # --- trips ----------------------------------------------------------------------------------------

    def add_trip(self, pin: PinnedRoute | None, every: float, count: int, kind: str = "") -> bool:
        """Make a trip of the current route. False, and said, when there is none."""
        session = self._session
        if pin is None:
            session.say(tr("No trip was added: choose or find a route first"), "no")
            return False
        depart = round(self.run.seconds, 1) if self.run is not None else 0.0
        trip = Trip(pin.start, pin.goal, depart, kind, every, count)
        label = tr("Added the trip {title}", title=pin.title)
        return session.attempt(set_trips, session.plan, (*session.plan.traffic.trips, trip), label)
