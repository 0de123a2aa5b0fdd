"""Blinding: codes that tell nothing, and the seal on the plan and its key."""
