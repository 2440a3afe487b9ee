"""Processes the tests start: killed or stripped of rights on purpose, so not measured for coverage."""

import os


def plain_environment() -> dict[str, str]:
    """The environment without what makes a child process write coverage."""
    return {key: value for key, value in os.environ.items() if not key.startswith("COVERAGE")}
