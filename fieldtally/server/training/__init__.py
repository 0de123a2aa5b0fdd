"""Training: scorers practise, grade together, and see how they agree."""
