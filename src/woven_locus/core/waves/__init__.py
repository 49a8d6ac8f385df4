"""Tower defence: entries and goals, attackers and towers, ways, what seals them, and the stepped wave."""
