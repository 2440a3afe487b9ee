"""Which step must come off before which: what is said, what follows from fasteners, and what is only assumed."""

from dataclasses import dataclass

from violet_dial.core.opening.steps import COVERING, FASTENERS, Step, names_of


@dataclass(frozen=True)
class Relations:
    """For each step (by place in the list): places of steps that must be off before it.

    ``said`` comes from under, hides and what fasteners hold; ``assumed`` is the nearest part taken off earlier, used
    only where nothing is said. ``unmet`` are names that no step of the list has, as (step place, name).
    """

    said: tuple[frozenset[int], ...]
    assumed: tuple[frozenset[int], ...]
    unmet: tuple[tuple[int, str], ...]

    def before(self, place: int) -> frozenset[int]:
        """Every step that must be off before this one, as far as known."""
        return self.said[place] or self.assumed[place]


def relate(steps: tuple[Step, ...]) -> Relations:
    """Relations of a strip-down list, in its order."""
    places: dict[str, list[int]] = {}
    for place, step in enumerate(steps):
        for name in names_of(step):
            places.setdefault(name, []).append(place)
    said: list[set[int]] = [set() for _ in steps]
    unmet: list[tuple[int, str]] = []
    for place, step in enumerate(steps):
        for name in step.under:
            found = [other for other in places.get(name.lower(), ()) if other != place]
            said[place].update(found)
            if not found:
                unmet.append((place, name))
        for name in step.hides:
            for other in places.get(name.lower(), ()):
                if other != place:
                    said[other].add(place)
        if step.kind in FASTENERS:
            held = [other for other in places.get(step.home.lower(), ()) if steps[other].kind not in FASTENERS]
            for other in _nearest(held, place):
                said[other].add(place)
    assumed = _assume(steps, said)
    return Relations(tuple(frozenset(one) for one in said), assumed, tuple(unmet))


def _nearest(held: list[int], place: int) -> list[int]:
    """The thing a fastener holds: the next one of that name in the list, or else the nearest."""
    after = [other for other in held if other > place]
    return after[:1] or held[-1:]


def _assume(steps: tuple[Step, ...], said: list[set[int]]) -> tuple[frozenset[int], ...]:
    assumed = []
    last_cover: int | None = None
    for place, step in enumerate(steps):
        earlier_only = all(other < place for other in said[place])
        own_fasteners = said[place] and all(steps[other].kind in FASTENERS for other in said[place])
        quiet = not said[place] or own_fasteners
        assumed.append(frozenset({last_cover}) if last_cover is not None and quiet and earlier_only else frozenset())
        if step.kind in COVERING:
            last_cover = place
    return tuple(assumed)


def refit_before(steps: tuple[Step, ...], relations: Relations) -> tuple[frozenset[int], ...]:
    """For each step: places that must be back before it goes back (removal turned round, and the exceptions).

    ``relations``: which steps keep which under; made from the steps when None.
    """
    result: list[set[int]] = [set() for _ in steps]
    for place in range(len(steps)):
        for other in relations.said[place]:
            result[other].add(place)
    names: dict[str, list[int]] = {}
    for place, step in enumerate(steps):
        for name in names_of(step):
            names.setdefault(name, []).append(place)
    for place, step in enumerate(steps):
        for name in step.back_after:
            for other in names.get(name.lower(), ()):
                if other != place:
                    result[place].add(other)
                    result[other].discard(place)
    return tuple(frozenset(one) for one in result)
