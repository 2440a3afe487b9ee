"""Writes the spectral tables that ship, as small CSV with their source, from the tables of the colour-science package.

write_spectra.py           writes them anew
"""

import csv
from pathlib import Path

import colour
import numpy as np
from colour.colorimetry.datasets.illuminants import SDS_BASIS_FUNCTIONS_CIE_ILLUMINANT_D_SERIES as DAYLIGHT

FOLDER = Path(__file__).resolve().parent.parent / "src" / "violet_dial" / "assets" / "spectra"
STEP_NM = 5.0
LIGHTS = ("FL2", "FL7", "FL11", "LED-B1", "LED-B3", "LED-B5", "LED-V1")
FROM = f"table of colour-science {colour.__version__}"


def written(name: str, source: str, columns: dict[str, "colour.SpectralDistribution"]) -> None:
    """One table: the wavelengths all of its columns have."""
    low = max(one.shape.start for one in columns.values())
    high = min(one.shape.end for one in columns.values())
    grid = np.arange(low, high + 1, STEP_NM)
    with (FOLDER / name).open("w", encoding="utf-8", newline="") as out:
        out.write(f"# {source}; {FROM}\n")
        writer = csv.writer(out, lineterminator="\n")
        writer.writerow(("wavelength_nm", *columns))
        for nm in grid:
            writer.writerow((f"{nm:g}", *(f"{float(one[nm]):.6g}" for one in columns.values())))


def main() -> None:
    """All of them."""
    FOLDER.mkdir(exist_ok=True)
    photopic = {"v": colour.SDS_LEFS["CIE 1924 Photopic Standard Observer"]}
    written("photopic.csv", "CIE 1924 photopic observer (ISO/CIE 11664-1)", photopic)
    components = {name.lower(): DAYLIGHT[name] for name in ("S0", "S1", "S2")}
    written("daylight.csv", "components of CIE daylight (CIE 15)", components)
    lights = {name: colour.SDS_ILLUMINANTS[name] for name in LIGHTS}
    written("lamps.csv", "CIE fluorescent and LED illuminants (CIE 15)", lights)


if __name__ == "__main__":
    main()
