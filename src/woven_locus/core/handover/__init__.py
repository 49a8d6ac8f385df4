"""Source for a game: what a plan's rules say, in several languages, from templates around code of our own."""

from woven_locus.core.handover.languages import LANGUAGES, Language
from woven_locus.core.handover.sources import Facts, facts_of, made_of

__all__ = ["LANGUAGES", "Facts", "Language", "facts_of", "made_of"]
