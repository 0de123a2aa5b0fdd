"""Hazards: the usual cautions for substances and activities, and pairs that must not meet.

Nothing here replaces the product's label, its safety data sheet, local codes or licensed practice; every caution says so.
"""
