"""Make the blue-noise tile by void and cluster (Ulichney 1993): `python -m tools.blue_noise`.

A 64×64 torus; energy is a Gaussian of σ = 1.9 around every set pixel. The ranks 0 .. 4095 are stored as uint16. The seed is
fixed, so the script gives the very file that is checked in.
"""

from pathlib import Path

import numpy as np

SIZE, SIGMA, SEED, BEGUN = 64, 1.9, 20260, 0.1
TARGET = Path(__file__).resolve().parent.parent / "huvren" / "core" / "reduction" / "dithers" / "blue_noise_64.npy"


def _kernel() -> np.ndarray:
    away = np.minimum(np.arange(SIZE), SIZE - np.arange(SIZE))
    return np.asarray(np.exp(-(away[:, None] ** 2 + away[None] ** 2) / (2 * SIGMA**2)))


def make_tile() -> np.ndarray:
    """(64, 64) uint16 ranks."""
    kernel = _kernel()

    def energy_of(pattern: np.ndarray) -> np.ndarray:
        total = np.zeros((SIZE, SIZE))
        for y, x in np.argwhere(pattern):
            total += np.roll(kernel, (y, x), axis=(0, 1))
        return total

    def turn(pattern: np.ndarray, energy: np.ndarray, place: tuple[int, int], on: bool) -> None:
        pattern[place] = on
        energy += np.roll(kernel, place, axis=(0, 1)) * (1 if on else -1)

    def cluster(pattern: np.ndarray, energy: np.ndarray) -> tuple[int, int]:
        y, x = np.unravel_index(np.where(pattern, energy, -np.inf).argmax(), pattern.shape)
        return int(y), int(x)

    def void(pattern: np.ndarray, energy: np.ndarray) -> tuple[int, int]:
        y, x = np.unravel_index(np.where(pattern, np.inf, energy).argmin(), pattern.shape)
        return int(y), int(x)

    random = np.random.default_rng(SEED)
    pattern = np.zeros((SIZE, SIZE), dtype=bool)
    pattern.ravel()[random.choice(SIZE * SIZE, int(SIZE * SIZE * BEGUN), replace=False)] = True
    energy = energy_of(pattern)
    while True:
        tight = cluster(pattern, energy)
        turn(pattern, energy, tight, False)
        wide = void(pattern, energy)
        turn(pattern, energy, wide, True)
        if wide == tight:
            break
    ranks = np.zeros((SIZE, SIZE), dtype=np.uint16)
    begun = int(pattern.sum())
    first, first_energy = pattern.copy(), energy.copy()
    for rank in range(begun - 1, -1, -1):
        place = cluster(first, first_energy)
        turn(first, first_energy, place, False)
        ranks[place] = rank
    for rank in range(begun, SIZE * SIZE):
        place = void(pattern, energy)
        turn(pattern, energy, place, True)
        ranks[place] = rank
    return ranks


if __name__ == "__main__":
    np.save(TARGET, make_tile())
    print(f"written: {TARGET}")
