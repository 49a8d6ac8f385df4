"""The register of placed structures."""

from woven_locus.core.register.alike import Alike, alike
from woven_locus.core.register.register import LARGEST_NUMBER, Register, Structure, structure_id

__all__ = ["LARGEST_NUMBER", "Alike", "Register", "Structure", "alike", "structure_id"]
