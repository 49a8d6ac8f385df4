"""The register of placed structures."""

from woven_locus.core.register.alike import Alike, Rows, alike
from woven_locus.core.register.register import Register
from woven_locus.core.register.structure import LARGEST_NUMBER, Structure, structure_id

__all__ = ["LARGEST_NUMBER", "Alike", "Register", "Rows", "Structure", "alike", "structure_id"]
