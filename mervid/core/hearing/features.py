"""What can be heard at each moment: onset strengths, before any idea of a beat.

Descriptions of one recording, made in one streaming pass at 32 kHz mono:

* *spectra*, 50 a second, which the trained ear reads (see `spectra`, `ear`).
* *attack*, 1000 a second: how far energy just after an instant exceeds energy just before it, in three
  bands. It peaks where a hit begins. Placing a beat to the millisecond, the bar fold and snapping read this.
* the share of percussive sound, 20 a second, by median filtering (Fitzgerald, DAFx 2010), for the two inks of the
  waveform.

* a coarse spectrum and chroma, 20 a second: the form of the song is read from these.

And where the ear's weights can't be read, in place of the spectra:

* *flux*, 100 a second in four bands: the rise of log-frequency magnitudes over the loudest of their
  neighbours two frames before (SuperFlux: Böck & Widmer, DAFx 2013), each band divided by its own
  slow running level. Beat tracking reads this.
"""

from __future__ import annotations

from collections.abc import Callable
from functools import cache
from pathlib import Path

import attrs
import numpy as np
from numpy.typing import NDArray

from ..arrays import Floats, Ints, Samples, Singles
from ..errors import FormatError
from ..sound.decoding import Resampler
from . import ear as trained
from . import turntable
from .ear import Ear, Strengths
from .pitches import PitchMeter
from .scene import SLOW_FPS, Scene, scene
from .spectra import HOP as EAR_HOP
from .spectra import RATE, Spectra, all_rises
from .turntable import Partials, Steps

HOP = 320
FLUX_FPS = RATE // HOP
WINDOW = 1536
ATTACK_RATE = 1000
SNAP_REACH = 0.03
_FELT = 0.06
SLOW = FLUX_FPS // SLOW_FPS
SHORT = 66.0
"""Recordings up to so many s may be loops: sixteen bars at 58 BPM."""
BAND_EDGES = (140.0, 600.0, 4000.0)
BANDS = len(BAND_EDGES) + 1
_CHUNK = 10 * RATE
_LONG_WINDOW = turntable.WINDOW
_SLOW_HOP = HOP * SLOW
_COARSE = 2
"""Frames of magnitudes for each of the slow ones, where the trained ear serves."""
_HELD = 3
"""Slow frames over which sound that is held stays alike: .15 s."""
_COMMON_HOP = 2 * _SLOW_HOP
_PIECE = 1 << 18
_LONG_PAST = _LONG_WINDOW // 2 + 2 * _SLOW_HOP
_ATTACK_BANDS = ((None, 180.0), (180.0, 2500.0), (2500.0, None))
_ATTACK_SPAN = (0.012, 0.006, 0.004)


@attrs.frozen(eq=False)
class Sound:
    """Onset strengths of a recording.

    Attributes
    ----------
    flux : (frames, 4) float32, about 0 to 1.5, 100 a second; frame i is centred on i / 100 s
    attack : (n,) float32, 0 to about 1, 1000 a second; sample i stands for i / 1000 s
    colour : (m, 24) float32, log magnitudes, 20 a second
    chroma : (m, 12) float32, 20 a second, each row sums to 1 or 0
    percussive : (m,) float32 in [0, 1], 20 a second
    duration : s, exactly
    strengths : what the trained ear says of each frame; None where its weights could not be read
    sung : what the ear of voices alone says, where a voice is alone and that ear is there
    problem : why `strengths` could not be read, else empty
    partials : how the pitches of the sound moved, for `turntable`
    pitches : how much of each pitch it holds, see `pitches`
    rises : (k,) how much louder all bands become, 100 a second; of short recordings only, for `loops`
    scene : what bars and places are told by; None without the trained ear
    """

    flux: Singles
    attack: Singles
    colour: Singles
    chroma: Singles
    percussive: Singles
    duration: float
    strengths: Strengths | None = None
    sung: Strengths | None = None
    problem: str = ""
    partials: Steps = attrs.field(factory=lambda: Partials().finish())
    pitches: Singles = attrs.field(factory=lambda: PitchMeter().finish())
    rises: Singles = attrs.field(factory=lambda: np.zeros(0, np.float32))
    scene: Scene | None = None


@cache
def _filterbank() -> tuple[Singles, Singles]:
    """Triangular bands, 24 an octave from 40 Hz to 15 kHz: (769, bands) weights and band centres in Hz."""
    freqs = np.fft.rfftfreq(WINDOW, 1 / RATE)
    ideal = 40.0 * 2.0 ** (np.arange(0, 24 * np.log2(15000 / 40) + 1) / 24)
    bins = np.unique(np.rint(ideal / freqs[1]).astype(int))
    weights = np.zeros((len(freqs), len(bins) - 2), np.float32)
    for k, (a, b, c) in enumerate(zip(bins[:-2], bins[1:-1], bins[2:], strict=True)):
        weights[a : b + 1, k] = np.linspace(0, 1, b - a + 1)
        weights[b : c + 1, k] = np.linspace(1, 0, c - b + 1)
    return weights, freqs[bins[1:-1]].astype(np.float32)


@cache
def _chroma_map() -> tuple[Singles, slice]:
    """Which pitch class each FFT bin between 110 and 1760 Hz (four whole octaves) sounds in, (bins, 12); these bins."""
    freqs = np.fft.rfftfreq(_LONG_WINDOW, 1 / RATE)
    out = np.zeros((len(freqs), 12), np.float32)
    inside = np.flatnonzero((freqs >= 110) & (freqs < 1760))
    pitch = np.rint(12 * np.log2(freqs[inside] / 440.0)).astype(int) % 12
    out[inside, pitch] = 1
    used = slice(int(inside[0]), int(inside[-1]) + 1)
    return out[used], used


class Listener:
    """Takes decoded blocks as they come and keeps only features: two hours need some 100 MB.

    Examples
    --------
    >>> listener = Listener(44100)
    >>> listener.push(np.zeros((44100, 2), np.float32))
    >>> listener.finish().flux.shape[1]
    4
    """

    def __init__(self, rate: int, *, weights: Path = trained.WEIGHTS) -> None:
        from scipy.signal import butter

        self._ear: Ear | None = None
        self._weights = weights
        self.problem = ""
        try:
            self._ear = trained.load(weights)
        except FormatError as e:
            self.problem = str(e)
        self._spectra, self._partials, self._pitches = Spectra(), Partials(), PitchMeter()
        self._resample = Resampler(rate, RATE)
        self._rate, self._frames = rate, 0
        self._queue: list[Samples] = []
        self._queued = 0
        self._tail = np.zeros(_LONG_PAST, np.float32)
        self._total = 0
        self._last_bands = np.zeros((2, _filterbank()[0].shape[1]), np.float32)
        self._filters = [
            butter(
                2,
                high if low is None else low if high is None else (low, high),
                kind,
                fs=RATE,
                output="sos",
            )
            for (low, high), kind in zip(_ATTACK_BANDS, ("lowpass", "bandpass", "highpass"), strict=True)
        ]
        self._states = [np.zeros((len(sos), 2), np.float32) for sos in self._filters]
        self._flux: list[Singles] = []
        self._power: list[Singles] = []
        self._colour: list[Singles] = []
        self._chroma: list[Singles] = []
        self._percussive: list[Singles] = []

    def push(self, block: Samples) -> None:
        """Hear (frames, channels) or (frames,) more samples at the rate given at the start."""
        self._frames += len(block)
        self._add(self._resample(block))

    def _add(self, mono: Samples) -> None:
        self._total += len(mono)
        self._queue.append(mono)
        self._queued += len(mono)
        while self._queued >= _CHUNK:
            heap = np.concatenate(self._queue)
            self._hear(heap[:_CHUNK])
            self._queue, self._queued = [heap[_CHUNK:]], len(heap) - _CHUNK

    def finish(self, *, progress: Callable[[float], None] = lambda part: None) -> Sound:
        """Hear what is left and put the features together; `progress` is told the share done, and may raise."""
        self._add(self._resample(np.zeros(0, np.float32), last=True))
        duration = self._total / RATE
        rest = np.concatenate([*self._queue, np.zeros(0, np.float32)])
        # pad to whole frames of every kind, and half a window so that the last frames are whole
        padded = np.zeros(-(-(len(rest) + _LONG_PAST) // _COMMON_HOP) * _COMMON_HOP, np.float32)
        padded[: len(rest)] = rest
        self._hear(padded)
        # first, while little else is held: two hours of it are 90 MB
        power = np.concatenate(self._power)[: int(np.ceil(duration * ATTACK_RATE))]
        self._power.clear()
        attack = _attack(power)
        del power
        frames = int(np.ceil(duration * FLUX_FPS))
        slow = int(np.ceil(duration * SLOW_FPS))
        strengths, sung, seen = None, None, None
        rises = np.zeros(0, np.float32)
        flux = np.zeros((0, BANDS), np.float32)
        # the first two frames of chroma and flux are centred before time zero
        colour, chroma = np.concatenate(self._colour)[:slow], np.concatenate(self._chroma)[2:][:slow]
        if self._ear is not None:
            read = self._spectra.features(-(-self._total // EAR_HOP))
            if duration <= SHORT:
                rises = all_rises(read)
            strengths = self._ear.hear(read, progress=progress)
            sung = trained.sung(strengths, read, weights=self._weights, progress=lambda part: progress(1.0))
            seen = scene(read, chroma, colour)
        else:
            flux = _level(np.concatenate(self._flux)[2:][:frames])
        return Sound(
            flux=flux,
            attack=attack,
            colour=colour,
            chroma=chroma,
            percussive=np.concatenate(self._percussive)[:slow],
            # to the sample: the tempo of a loop is that of its length
            duration=self._frames / self._rate,
            strengths=strengths,
            sung=sung,
            problem=self.problem,
            partials=self._partials.finish(),
            pitches=self._pitches.finish(),
            rises=rises,
            scene=seen,
        )

    def _hear(self, chunk: Samples) -> None:
        """Features of one chunk; its last window stays in the tail for the next."""
        from scipy.fft import rfft
        from scipy.ndimage import median_filter
        from scipy.signal import sosfilt

        joined = np.concatenate([self._tail, chunk])
        self._tail = joined[-_LONG_PAST:]
        # only `untrained_pointer` needs a hundred a second
        hop, each = (HOP, SLOW) if self._ear is None else (_SLOW_HOP // _COARSE, _COARSE)
        past = WINDOW // 2 + hop * (each - 1) // 2
        views = np.lib.stride_tricks.sliding_window_view(joined[_LONG_PAST - past :], WINDOW)[::hop]
        views = views[: len(chunk) // hop]
        window = np.hanning(WINDOW).astype(np.float32)
        magnitude = np.abs(rfft(views * window, axis=1))
        level = magnitude @ _filterbank()[0]
        bands = np.log10(1 + level)
        self._hear_colour(joined, _slowly(bands, each), len(chunk))
        if self._ear is None:
            self._hear_simply(bands)
        else:
            self._spectra.push(chunk)
        thin = _slowly(level[:, ::3], each)
        held = median_filter(thin, (_HELD, 1), mode="nearest")
        struck = median_filter(thin, (1, 9), mode="nearest")
        share = (thin * struck**2 / (struck**2 + held**2 + 1e-12)).sum(axis=1) / (thin.sum(axis=1) + 1e-9)
        self._percussive.append(share)
        step = RATE // ATTACK_RATE
        powers = []
        for k, sos in enumerate(self._filters):
            y, self._states[k] = sosfilt(sos.astype(np.float32), chunk, zi=self._states[k])
            powers.append((y * y).reshape(-1, step).mean(axis=1))
        self._power.append(np.stack(powers, axis=1).astype(np.float32))

    def _hear_simply(self, bands: Singles) -> None:
        """The rises of one chunk, which `untrained_pointer` reads."""
        from scipy.ndimage import maximum_filter1d

        centres = _filterbank()[1]
        before = np.concatenate([self._last_bands, bands])[:-2]
        self._last_bands = bands[-2:]
        rise = np.maximum(0, bands - maximum_filter1d(before, 3, axis=1))
        edges = np.searchsorted(centres, BAND_EDGES)
        self._flux.append(np.stack([part.sum(axis=1) for part in np.split(rise, edges, axis=1)], axis=1))

    def _hear_colour(self, joined: Singles, coarse: Singles, samples: int) -> None:
        """Timbre and harmony of one chunk, 20 a second, and its partials."""
        from scipy.fft import rfft

        groups = np.linspace(0, coarse.shape[1], 25).astype(int)[:-1]
        sizes = np.diff([*groups, coarse.shape[1]]).astype(np.float32)
        self._colour.append((np.add.reduceat(coarse, groups, axis=1) / sizes).astype(np.float32))
        long = np.lib.stride_tricks.sliding_window_view(joined, _LONG_WINDOW)[::_SLOW_HOP][: samples // _SLOW_HOP]
        spectrum = np.abs(rfft(long * np.hanning(_LONG_WINDOW).astype(np.float32), axis=1)[:, : turntable.BINS])
        # the very first frame is centred before time zero
        peaks = turntable.peaks(spectrum[::2] if self._chroma else spectrum[2::2])
        self._partials.push(peaks)
        self._pitches.push(peaks.frame, peaks.at * RATE / _LONG_WINDOW, peaks.loud)
        used = _chroma_map()[1]
        pitches = np.sqrt(spectrum[:, used]) @ _chroma_map()[0]
        total = pitches.sum(axis=1, keepdims=True)
        self._chroma.append(np.where(total > 1e-3, pitches / np.maximum(total, 1e-9), 0).astype(np.float32))


def _slowly(x: Singles, each: int) -> Singles:
    """Means of so many frames each: (n, k) to (n // each, k)."""
    return x[: len(x) // each * each].reshape(-1, each, x.shape[1]).mean(axis=1, dtype=np.float32)


def _running_percentile(x: Singles, *, width: int, percent: float, step: int) -> Singles:
    """A slow percentile of (n,) `x` over `width` samples, found every `step` and joined by straight lines."""
    n, reach = len(x), width // 2
    at = np.arange(0, n, step)
    whole = (at >= reach) & (at + reach < n)
    found = np.empty(len(at))
    if whole.any():
        views = np.lib.stride_tricks.sliding_window_view(x, 2 * reach + 1)[at[whole] - reach]
        found[whole] = np.percentile(views, percent, axis=1)
    for k in np.flatnonzero(~whole):
        found[k] = np.percentile(x[max(0, at[k] - reach) : at[k] + reach + 1], percent)
    return np.interp(np.arange(n), at, found).astype(np.float32)


def _level(flux: Singles) -> Singles:
    """Divide each band by its slow running level, with a floor so that silence doesn't blow up; square root."""
    if not len(flux):
        return np.zeros((0, BANDS), np.float32)
    out = np.empty_like(flux)
    for b in range(flux.shape[1]):
        slow = _running_percentile(flux[:, b], width=8 * FLUX_FPS, percent=96, step=FLUX_FPS // 2)
        floor = max(0.15 * float(np.percentile(slow, 90)), 0.02)
        out[:, b] = np.sqrt(np.minimum(flux[:, b] / np.maximum(slow, floor), 2.0))
    return out


def _attack(power: Singles) -> Singles:
    """Log energy just after an instant over log energy just before it, summed over the bands, 0 to about 1."""
    if not len(power):
        return np.zeros(0, np.float32)
    total = np.zeros(len(power), np.float32)
    for b, span in enumerate(_ATTACK_SPAN):
        w = int(span * ATTACK_RATE)
        p = power[:, b].astype(np.float64)
        slow = _running_percentile(p[::50].astype(np.float32), width=8 * 20, percent=90, step=10)
        floor = np.maximum(np.repeat(slow, 50)[: len(p)], np.percentile(p, 99) * 0.05) * 0.02 + 1e-10
        run = np.concatenate([np.zeros(w + 1), np.cumsum(p), np.full(w, p.sum())])
        for a in range(0, len(p), _PIECE):
            i = np.arange(a, min(len(p), a + _PIECE)) + w
            after = (run[i + w] - run[i]) / w
            before = (run[i] - run[i - w]) / w
            here = floor[i - w]
            total[i - w] += np.maximum(0, np.log((after + here) / (before + here))).astype(np.float32)
    scale = float(np.percentile(total, 99.5))
    return np.clip(total / (1.5 * scale), 0, 1).astype(np.float32) if scale > 1e-6 else np.zeros_like(total)


def listen(samples: Samples, rate: int) -> Sound:
    """All the features of (frames,) or (frames, channels) samples in memory."""
    listener = Listener(rate)
    for start in range(0, len(samples), 1 << 18):
        listener.push(samples[start : start + (1 << 18)])
    return listener.finish()


def onsets(attack: Singles, *, least: float = 0.12, apart: float = 0.03) -> tuple[Floats, Singles]:
    """The heard onsets: times in s (ascending) and strengths of the peaks of `attack`.

    Parameters
    ----------
    least
        Peaks below this strength are left out.
    apart
        Seconds within which only the strongest peak counts.
    """
    if len(attack) < 3:
        return np.zeros(0), np.zeros(0, np.float32)
    at = strongest(attack, least, int(apart * ATTACK_RATE))
    return at / ATTACK_RATE, attack[at]


def strongest(x: Singles, least: float, gap: int) -> Ints:
    """Places of the peaks of (n,) `x` above `least`, ascending; of those within `gap` of each other the highest."""
    peaks = np.flatnonzero((x[1:-1] > x[:-2]) & (x[1:-1] >= x[2:]) & (x[1:-1] > least)) + 1
    taken = np.zeros(len(x) + 2 * gap + 1, bool)
    keep = []
    for p in peaks[np.argsort(-x[peaks], kind="stable")]:
        if not taken[p + gap]:
            taken[p : p + 2 * gap + 1] = True
            keep.append(p)
    return np.sort(np.array(keep, np.int64))


def highest_attack(attack: NDArray[np.uint8], times: Floats, reach: int) -> NDArray[np.uint8]:
    """The strongest of (n,) `attack`, 1000 a second, within `reach` ms of times in s of any shape; 0 outside of it."""
    ahead = reach + 10
    padded = np.pad(attack, (ahead, ahead + 1))
    at = np.rint(times * ATTACK_RATE).astype(int) + ahead
    return np.max([padded[np.clip(at + k, 0, len(padded) - 1)] for k in range(-reach, reach + 1, 5)], axis=0)


def attack_near(attack: Singles, time: float, reach: float) -> float:
    """The beginning of the strongest attack within `reach` s of `time`; `time` itself where nothing is struck.

    Parameters
    ----------
    attack : (n,) strength, 1000 a second
    """
    a = max(0, int((time - reach) * ATTACK_RATE))
    part = attack[a : int((time + reach) * ATTACK_RATE) + 1]
    # of two attacks in reach the nearer counts for more
    near = part * np.exp(-2.0 * ((np.arange(len(part)) + a) / ATTACK_RATE - time) ** 2 / reach**2)
    if not len(part) or near.max() < _FELT:
        return time
    return float(a + int(near.argmax())) / ATTACK_RATE
