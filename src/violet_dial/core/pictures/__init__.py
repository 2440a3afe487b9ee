"""Pictures as figures: two prints of the same scene beside each other."""
