"""Whether it is really fixed: counting, plans, what failures follow, contacts, exercise, seals, soaking."""
