"""Panels: people judging by taste, smell, sound, touch or eye.  A file for each idea, METHODS section 7 for all of them."""
