"""Decodes one FLAC or Ogg Vorbis recording from standard input: what a damaged one does, it does to this process alone.

Answers rate, channels and frames (three little-endian 32-bit numbers) and samples of 32-bit floats; or leaves with status 1 and
one line of why.
"""

import resource
import struct
import sys

MOST_MEMORY, MOST_SECONDS = 2_000_000_000, 60
MOST_SAMPLES = 80_000_000  # of all channels
HEAD = struct.Struct("<III")


def decoded(data: bytes) -> tuple[int, int, bytes]:
    """Rate, channels and samples of a recording. Raises ValueError: longer than may be, or no such recording."""
    import miniaudio
    import numpy as np

    flac = data[:4] == b"fLaC"
    try:
        about = miniaudio.flac_get_info(data) if flac else miniaudio.vorbis_get_info(data)
        if about.num_frames * about.nchannels > MOST_SAMPLES:
            raise ValueError(f"{about.num_frames} samples of {about.nchannels} channels; at most {MOST_SAMPLES} in all")
        sound = miniaudio.flac_read_f32(data) if flac else miniaudio.vorbis_read(data)
    except (miniaudio.MiniaudioError, MemoryError) as error:
        raise ValueError("damaged, or another format") from error
    if len(sound.samples) < about.num_frames * about.nchannels:
        raise ValueError("this one is cut short")
    samples = np.asarray(sound.samples, dtype=np.float32) / (1 if flac else 32768)
    return sound.sample_rate, sound.nchannels, samples.tobytes()


def main() -> int:
    """Decode, answer, leave."""
    resource.setrlimit(resource.RLIMIT_AS, (MOST_MEMORY, MOST_MEMORY))
    resource.setrlimit(resource.RLIMIT_CPU, (MOST_SECONDS, MOST_SECONDS))
    try:
        rate, channels, samples = decoded(sys.stdin.buffer.read())
    except ValueError as error:
        sys.stderr.write(str(error))
        return 1
    sys.stdout.buffer.write(HEAD.pack(rate, channels, len(samples) // 4 // max(channels, 1)) + samples)
    return 0


if __name__ == "__main__":
    sys.exit(main())
