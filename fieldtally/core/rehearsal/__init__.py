"""Rehearsal: a whole trial played through with chosen truths, before anything is done."""
