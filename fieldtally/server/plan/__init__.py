"""Plan: the draft, what it can tell, and the seal that fixes it together with the samples and their key."""
