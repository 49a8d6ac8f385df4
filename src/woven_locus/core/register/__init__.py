"""The register of placed structures."""

from woven_locus.core.register.register import LARGEST_NUMBER, Register, Structure, structure_id

__all__ = ["LARGEST_NUMBER", "Register", "Structure", "structure_id"]
