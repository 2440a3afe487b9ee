"""What changed between two records, said for the log."""

import dataclasses


def changes_said(before: object, after: object) -> str:
    """The fields of a record that changed, with their new values where these are short."""
    names = []
    for item in dataclasses.fields(after):  # type: ignore[arg-type]
        old, new = getattr(before, item.name), getattr(after, item.name)
        if old != new:
            name = item.name.replace("_", " ")
            names.append(f"{name} {new}" if isinstance(new, (str, float, int)) and len(str(new)) < 60 else name)
    return ", ".join(names) or "nothing changed"
