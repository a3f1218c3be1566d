"""Make the sounds of the pacer: short, loud beside a machine, told apart by their shape.

``python tools/ear.py`` writes them to src/loam/ui/ear; they are ours, and shipped.
"""

import wave
from pathlib import Path

import numpy as np

RATE = 22_050
PLACE = Path(__file__).resolve().parent.parent / "src" / "loam" / "ui" / "ear"
SOUNDS = {
    "line": ((1480.0, 0.07),),
    "pass": ((1175.0, 0.09), (0.0, 0.04), (1568.0, 0.12)),
    "last": ((1175.0, 0.09), (0.0, 0.03), (1568.0, 0.09), (0.0, 0.03), (2093.0, 0.18)),
    "end": ((1568.0, 0.16), (0.0, 0.04), (1175.0, 0.16), (0.0, 0.04), (784.0, 0.4)),
}
"""Each a row of tones: frequency, Hz (0: silence), and length, s."""


def tone(frequency, seconds):
    """A tone with its odd harmonics, so that it carries beside a motor; soft at both ends."""
    t = np.arange(round(RATE * seconds)) / RATE
    if not frequency:
        return np.zeros(t.size)
    wave_ = sum(np.sin(2 * np.pi * k * frequency * t) / k for k in (1, 3, 5))
    edge = np.minimum(1.0, np.minimum(t, seconds - t) / 0.006)
    return wave_ * np.clip(edge, 0.0, 1.0)


def main():
    """Write every sound."""
    PLACE.mkdir(exist_ok=True)
    for name, tones in SOUNDS.items():
        row = np.concatenate([tone(f, s) for f, s in tones])
        samples = np.int16(np.rint(0.92 * 32767 * row / np.abs(row).max()))
        with wave.open(str(PLACE / f"{name}.wav"), "wb") as out:
            out.setnchannels(1)
            out.setsampwidth(2)
            out.setframerate(RATE)
            out.writeframes(samples.tobytes())


if __name__ == "__main__":
    main()
