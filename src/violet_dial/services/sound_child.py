"""The child of `recordings`: decodes FLAC or Ogg Vorbis. Answers rate, channels and frames (three little-endian 32-bit numbers)
and samples of 32-bit floats.
"""

import resource
import struct
import sys

from violet_dial.services.child import Reply, serve

MOST_BYTES, MOST_MEMORY, MOST_SECONDS = 60_000_000, 2_000_000_000, 60
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


def answer(request: bytes) -> Reply:
    """A recording, decoded."""
    rate, channels, samples = decoded(request)
    return b"S", HEAD.pack(rate, channels, len(samples) // 4 // max(channels, 1)) + samples


if __name__ == "__main__":
    resource.setrlimit(resource.RLIMIT_CPU, (MOST_SECONDS, MOST_SECONDS))  # it answers once
    sys.exit(serve(answer, MOST_BYTES, MOST_MEMORY))
