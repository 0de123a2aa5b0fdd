"""Share: tables and the trial pack."""
