"""Commands of the rounds stage."""
