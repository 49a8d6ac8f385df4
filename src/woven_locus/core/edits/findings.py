"""Edits about findings: accepting one, or no more, and mending."""

from __future__ import annotations

from woven_locus.core.accepted import Accepted
from woven_locus.core.editing import AcceptedChange, Edit
from woven_locus.core.edits.mending import mend
from woven_locus.core.errors import BadPlan, Refused
from woven_locus.core.phrase import phrase
from woven_locus.core.plan import Plan
from woven_locus.core.proof.finding import Finding


def accept(plan: Plan, finding: Finding, reason: str) -> Edit:
    """Take a finding as it is; one that was accepted before gets another reason. Raises Refused without a reason, and for
    what is accepted and not there."""
    if isinstance(finding.mend, Accepted):
        raise Refused(phrase("What is accepted and not there can only be accepted no more"))
    if not reason.strip():
        raise Refused(phrase("A finding is accepted for a reason: say why it is as it should be"))
    code, cell, structure = finding.key
    try:
        made = Accepted(code, reason.strip(), cell, structure)
    except BadPlan as err:
        raise Refused(err.what) from err
    kept = tuple(item for item in plan.accepted if item.key != made.key)
    return Edit(
        phrase("Accepted: {message}", message=finding.message),
        (AcceptedChange(plan.accepted, (*kept, made)),),
    )


def accept_no_more(plan: Plan, known: Accepted) -> Edit:
    """Take a finding as it is no more. Raises Refused when it is not accepted."""
    if known not in plan.accepted:
        raise Refused(phrase("That finding is not accepted any more"))
    left = tuple(item for item in plan.accepted if item != known)
    return Edit(
        phrase("Accepted no more: {code}", code=known.code), (AcceptedChange(plan.accepted, left),)
    )


def mend_finding(plan: Plan, finding: Finding) -> Edit:
    """What mends a finding. Raises Refused."""
    if finding.mend is None:
        raise Refused(phrase("No edit is known that mends it: {message}", message=finding.message))
    if isinstance(finding.mend, Accepted):
        return accept_no_more(plan, finding.mend)
    return mend(plan, finding.mend)
