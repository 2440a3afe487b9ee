"""Everything measured, in one run."""

from bench import acts, fits, opening, start_up


def main() -> None:
    print("Start")
    start_up.report()
    print("Acts and screens")
    acts.report()
    print("Open")
    opening.report()
    print("Fits")
    fits.report()


if __name__ == "__main__":
    main()
