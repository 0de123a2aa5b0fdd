"""Design: what is compared on how many samples, laid out how, and what that can and cannot tell."""
