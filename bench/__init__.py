"""Speed and memory against outside references, as ratios in one run; recovery of known truth."""
