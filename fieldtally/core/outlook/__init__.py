"""Outlook: what a design can and cannot tell, before anything is done."""
