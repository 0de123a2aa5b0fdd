"""Dosing: how much of what each sample gets, whether it can be measured, and the sums of the bench."""
