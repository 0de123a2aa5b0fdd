"""The log: what happened in a trial beside its readings."""
