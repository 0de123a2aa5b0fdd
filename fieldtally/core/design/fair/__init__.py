"""The items of the fairness list, and how each is judged from a plan."""
