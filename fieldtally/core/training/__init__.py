"""The grading trainer: sets whose truth is known, what a person's answers tell about their eye, and when they are ready to score."""
