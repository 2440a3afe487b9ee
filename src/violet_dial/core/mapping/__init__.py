"""A board traced spot by spot: what was said of it, what it comes to as a circuit, what to touch next."""
