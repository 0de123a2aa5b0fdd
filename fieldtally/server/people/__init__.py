"""People: accounts, the trials they have roles in, invitations, and sight, the one object that says who may see what."""
