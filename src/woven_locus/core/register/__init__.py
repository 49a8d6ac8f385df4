"""The register of placed structures."""

from woven_locus.core.register.register import Register, Structure, structure_id

__all__ = ["Register", "Structure", "structure_id"]
