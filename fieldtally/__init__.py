"""Field Tally: plan, score and judge side-by-side trials."""
