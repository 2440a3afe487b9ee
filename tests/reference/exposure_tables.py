"""Published figures of exposure, each with its source.

LUMINANCE and ILLUMINANCE: EV at ISO 100 against luminance with K = 12.5 and illuminance with C = 250, as printed in
handbook tables of exposure values; they follow from ISO 2720:1974 [memory]. FILM_SPEEDS: arithmetic and logarithmic
film speeds side by side, ISO 5800 table [memory]. MARKS: nominal and exact f-numbers and times, common practice.
"""

LUMINANCE_CD_M2 = {-4: 0.008, -1: 0.063, 0: 0.125, 1: 0.25, 3: 1, 5: 4, 8: 32, 10: 128, 12: 512, 15: 4096, 16: 8192}
ILLUMINANCE_LX = {-4: 0.156, -1: 1.25, 0: 2.5, 1: 5, 3: 20, 5: 80, 8: 640, 10: 2560, 12: 10240, 15: 81920, 16: 163840}
FILM_SPEEDS = {
    6: 9, 8: 10, 10: 11, 12: 12, 16: 13, 20: 14, 25: 15, 32: 16, 40: 17, 50: 18, 64: 19, 80: 20, 100: 21, 125: 22,
    160: 23, 200: 24, 250: 25, 320: 26, 400: 27, 500: 28, 640: 29, 800: 30, 1000: 31, 1250: 32, 1600: 33, 3200: 36,
}  # fmt: skip
EXACT_F_NUMBERS = {"f/1.4": 1.41421356, "f/2.8": 2.82842712, "f/5.6": 5.65685425, "f/11": 11.3137085, "f/22": 22.627417}
EXACT_TIMES_S = {"1/15": 1 / 16, "1/30": 1 / 32, "1/60": 1 / 64, "1/125": 1 / 128, "1/500": 1 / 512, "1/1000": 1 / 1024}
