"""Every check of a plan in one table, and the one list of what they find."""

from __future__ import annotations

from collections import Counter
from collections.abc import Callable, Collection, Iterable, Iterator, Sequence
from functools import cached_property
from itertools import islice

from woven_locus.core.accepted import Accepted
from woven_locus.core.errors import Unknown
from woven_locus.core.phrase import phrase
from woven_locus.core.plan import Plan
from woven_locus.core.proof.checks import build, traffic, waves, ways
from woven_locus.core.proof.finding import Fault, Finding, Part, Severity
from woven_locus.core.proof.subject import Subject
from woven_locus.core.value import Value, replace

# Of one check, more than this are counted, not listed.
MOST_OF_A_CODE = 500


class Check(Value):
    """code : the sort of what it finds; others read it.  title : the same in words.
    kept : what it looks at is kept current from edit to edit, so that it costs next to nothing to ask again.
    size : how many there are, where that is known without putting each into words; else None."""

    code: str
    severity: Severity
    part: Part
    title: str
    find: Callable[[Subject], Iterator[Fault]]
    kept: bool = False
    size: Callable[[Subject], int | None] = lambda _subject: None


_ERROR, _WARNING, _NOTE = Severity.ERROR, Severity.WARNING, Severity.NOTE

CHECKS: tuple[Check, ...] = (
    Check(
        "occupancy", _ERROR, Part.BUILD, phrase("Register and map do not agree"), build.occupancy
    ),
    Check(
        "unsound",
        _ERROR,
        Part.BUILD,
        phrase("Could not be placed where it stands"),
        build.unsound,
        True,
        build.count_unsound,
    ),
    Check("too-few", _ERROR, Part.BUILD, phrase("Too few of a kind"), build.too_few),
    Check("too-many", _ERROR, Part.BUILD, phrase("Too many of a kind"), build.too_many),
    Check("debt", _ERROR, Part.BUILD, phrase("Cannot be paid"), build.debt),
    Check(
        "unknown-name", _WARNING, Part.BUILD, phrase("A rule about nothing"), build.unknown_names
    ),
    Check("blocked-door", _WARNING, Part.BUILD, phrase("A door onto nothing"), build.blocked_doors),
    Check("art-gap", _WARNING, Part.BUILD, phrase("Art that leaves gaps"), build.art_gaps),
    Check(
        "near-miss",
        _WARNING,
        Part.WAYS,
        phrase("Near miss"),
        ways.misses,
        True,
        lambda subject: len(subject.misses),
    ),
    Check(
        "cut-off",
        _WARNING,
        Part.WAYS,
        phrase("Cut off"),
        ways.cut_off,
        True,
        lambda subject: subject.links.cut_off_count,
    ),
    Check("trap", _WARNING, Part.WAYS, phrase("In, but not out"), ways.traps),
    Check("unreached-road", _NOTE, Part.WAYS, phrase("Road that nobody uses"), ways.unreached_road),
    Check(
        "unreached-ground", _NOTE, Part.GROUND, phrase("Ground out of reach"), ways.unreached_ground
    ),
    Check("dead-end", _NOTE, Part.WAYS, phrase("Dead end"), ways.dead_ends),
    Check("weak", _NOTE, Part.WAYS, phrase("Weak point"), ways.weak),
    Check("no-way", _ERROR, Part.TRAFFIC, phrase("Trip without a way"), traffic.no_way),
    Check("never-green", _ERROR, Part.TRAFFIC, phrase("Never green"), traffic.never_green),
    Check("gridlock", _ERROR, Part.TRAFFIC, phrase("Gridlock"), traffic.gridlock),
    Check("overlap", _ERROR, Part.TRAFFIC, phrase("Vehicles overlap"), traffic.overlaps),
    Check("held-back", _WARNING, Part.TRAFFIC, phrase("No room to set off"), traffic.held_back),
    Check("sealed", _ERROR, Part.WAVES, phrase("Sealed entry"), waves.sealed),
    Check("wave-part", _WARNING, Part.WAVES, phrase("Missing in the waves"), waves.missing),
    Check("idle-tower", _WARNING, Part.WAVES, phrase("Idle tower"), waves.idle_towers),
)
# Of traffic that has run: nothing is found while no time was let pass.
MOTION = tuple(check for check in CHECKS if check.code in ("gridlock", "overlap", "held-back"))
BY_CODE = {check.code: check for check in CHECKS}
# What an accepted finding that is found no more is called.
OUTDATED = Check(
    "outdated", _NOTE, Part.BUILD, phrase("Accepted, and not there"), lambda _: iter(())
)
_RANK = {severity: rank for rank, severity in enumerate(Severity)}


class Proof(Value, dict=True):
    """findings : errors first, each severity in the order of the table.  accepted : those that the plan's makers take as
    they are.  more : by code, how many there are beyond those."""

    findings: tuple[Finding, ...]
    accepted: tuple[Finding, ...]
    more: dict[str, int]

    def count(self, severity: Severity) -> int:
        """How many there are, listed or not, accepted ones left out."""
        return sum(n for (_part, found), n in self._counts.items() if found is severity)

    def open_in(self, part: Part) -> int:
        """How many errors and warnings there are of a stage, listed or not, accepted ones left out."""
        return self._counts[part, Severity.ERROR] + self._counts[part, Severity.WARNING]

    @cached_property
    def _counts(self) -> Counter[tuple[Part, Severity]]:
        """How many there are; the window asks after every edit."""
        found = Counter((item.part, item.severity) for item in self.findings)
        for code, count in self.more.items():
            found[BY_CODE[code].part, BY_CODE[code].severity] += count
        return found


def known_codes(codes: Iterable[str]) -> frozenset[str]:
    """The codes, if all are known. Raises Unknown."""
    found = frozenset(codes)
    for code in sorted(found - BY_CODE.keys() - {OUTDATED.code}):
        raise Unknown(
            phrase(
                "no finding {code!r}; there is {names}, {code2}",
                code=code,
                names=", ".join(BY_CODE),
                code2=OUTDATED.code,
            )
        )
    return found


def prove(
    plan: Plan,
    only: Collection[str] = (),
    seconds: float = 0.0,
    seed: int = 0,
    told: Callable[[float], object] = lambda _share: None,
    stopped: Callable[[], bool] = lambda: False,
) -> Proof:
    """Check a plan. only : codes, all by default.  seconds : of traffic that is let pass, 0 for none; seed : of that traffic.
    told : called with the share of the checks that are done. Raises Unknown for a code that there is not."""
    wanted = known_codes(only)
    checks = [check for check in CHECKS if not wanted or check.code in wanted]
    found = collect(Subject(plan, seconds, seed), checks, told, stopped)
    # Without traffic nobody knows what it would show.
    looked = {check.code for check in checks if seconds or check not in MOTION}
    if wanted and OUTDATED.code not in wanted:
        looked = set()
    return sorted_out(plan, found.found, found.more, looked)


class Collected(Value):
    """What some checks found. more : by code, how many there are beyond those that are listed."""

    found: tuple[Finding, ...]
    more: dict[str, int]

    def apart(self, codes: Collection[str]) -> tuple[Collected, Collected]:
        """What is of some checks, and what is of the others."""
        one, other = (
            Collected(
                tuple(item for item in self.found if (item.code in codes) is mine),
                {code: count for code, count in self.more.items() if (code in codes) is mine},
            )
            for mine in (True, False)
        )
        return one, other


def collect(
    subject: Subject,
    checks: Sequence[Check],
    told: Callable[[float], object] = lambda _share: None,
    stopped: Callable[[], bool] = lambda: False,
) -> Collected:
    """What checks find, in their order. told, stopped : see `prove`."""
    found: list[Finding] = []
    more: dict[str, int] = {}
    for at, check in enumerate(checks):
        if stopped():
            break
        listed, left = run(check, subject)
        found += listed
        if left:
            more[check.code] = left
        told((at + 1) / len(checks))
    return Collected(tuple(found), more)


def run(check: Check, subject: Subject) -> tuple[list[Finding], int]:
    """What one check finds, at most MOST_OF_A_CODE, and how many more there are."""
    faults = check.find(subject)
    listed = [_finding(check, fault) for fault in islice(faults, MOST_OF_A_CODE)]
    size = check.size(subject) if len(listed) == MOST_OF_A_CODE else len(listed)
    return listed, sum(1 for _ in faults) if size is None else size - len(listed)


def _finding(check: Check, fault: Fault) -> Finding:
    what, where = (check.code, check.severity, check.part), (fault.cell, fault.structure)
    return Finding(*what, fault.message, *where, fault.mend)


def sorted_out(
    plan: Plan, found: Iterable[Finding], more: dict[str, int], looked: Collection[str]
) -> Proof:
    """The findings in order, and apart those that are accepted; and what is accepted and was not found. looked : the codes
    that were looked for: others are not missed."""
    reasons = {item.key: item for item in plan.accepted}
    open_: list[Finding] = []
    taken: list[Finding] = []
    met: set[Accepted] = set()
    for item in sorted(found, key=lambda item: _RANK[item.severity]):
        known = reasons.get(item.key)
        if known is None:
            open_.append(item)
        else:
            met.add(known)
            taken.append(replace(item, reason=known.reason))
    for left in plan.accepted:
        # A code that nobody knows finds nothing; where not all were listed it may be among the others.
        known_to_be = left.code in looked or (looked and left.code not in BY_CODE)
        if left not in met and known_to_be and left.code not in more:
            words = phrase(
                "Accepted, and found no more: {code}: {reason}", code=left.code, reason=left.reason
            )
            open_.append(_finding(OUTDATED, Fault(words, left.cell, left.structure, left)))
    return Proof(tuple(open_), tuple(taken), more)
