"""The parts of a plan, each with what may be wrong with it."""
