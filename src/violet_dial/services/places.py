"""Where things are kept under XDG: workshops and their backups as data, the log and the fault reports as state."""

from pathlib import Path

from violet_dial.core.errors import StoreReadOnly
from violet_dial.store.placing import PRIVATE_FOLDER

APPLICATION, OWN_FILE, DEMO_FILE = "violet-dial", "workshop.violet", "demo.violet"
PRACTICE_ENDING = "practice.violet"  # beside a workshop: its practice, apart from all that is its own


def data_place() -> Path:
    """Where the workshop files are; it may not be there yet."""
    from platformdirs import user_data_path

    return user_data_path(APPLICATION, appauthor=False)


def data_folder() -> Path:
    """The folder of the workshop files, made for its owner alone. Raises StoreReadOnly: it cannot be made."""
    path = data_place()
    try:
        path.mkdir(parents=True, exist_ok=True, mode=PRIVATE_FOLDER)
    except OSError as error:
        raise StoreReadOnly(
            f"Cannot keep jobs in {path}: {error.strerror}. Make the folder writable, or name a workshop file elsewhere "
            "with --workshop FILE."
        ) from error
    return path


def practice_of(path: Path) -> Path:
    """The practice workshop beside a workshop: exercises never lie among jobs."""
    return path.with_name(f"{path.stem}-{PRACTICE_ENDING}")


def is_practice(path: Path) -> bool:
    """Whether a workshop file is one of practice."""
    return path.name.endswith(f"-{PRACTICE_ENDING}")


def workshop_of(path: Path) -> Path:
    """The workshop that a practice workshop lies beside."""
    return path.with_name(path.name.removesuffix(f"-{PRACTICE_ENDING}") + path.suffix)


def own_workshop() -> Path:
    """The workshop that is opened when none is named."""
    return data_folder() / OWN_FILE


def state_folder() -> Path:
    """The folder of the log and the fault reports; it may not be there yet."""
    from platformdirs import user_state_path

    return user_state_path(APPLICATION, appauthor=False)
