"""What each phrase is for, judged over the whole track at once.

A small network, beside arguments made by hand (`labelling`), says what a phrase is by itself; what follows what tells
the rest. Forms have habits: dance music, songs with a hook, rap and long vamps each go their own way, so there is a
table of moves for each, and a track is read by all of them, each as far as the track as a whole agrees with it (forward
and backward sums of a hidden Markov model: Rabiner, Proc. IEEE 77, 1989). All of it was learned from rendered songs
(`training/roles.py`).
"""

from __future__ import annotations

from functools import cache
from pathlib import Path
from zipfile import BadZipFile

import attrs
import numpy as np

from ..arrays import Floats, Singles
from .bar_features import Bars
from .role_features import Phrases, figures

WEIGHTS = Path(__file__).parent / "weights" / "roles.npz"
KINDS = ("intro", "verse", "pre", "chorus", "turn", "break", "build", "drop", "outro")
"""What a phrase can be, finer than roles: 'pre' leads into a chorus, 'turn' is a turnaround of a few bars."""
STYLES = ("dance", "song with a hook", "hip-hop", "long vamps")
_MOST = 5.0


@attrs.frozen(eq=False)
class Model:
    """What was learned.

    Attributes
    ----------
    mean, spread : of the figures
    layers : weights and offsets of the network, three layers
    moves : (styles, kinds + 1, kinds + 1) log chance of each kind after each; the last row begins, the last column ends
    styles : (styles,) log chance of each before anything is heard
    usual : (kinds,) log share of each kind in what the network was shown
    heat : what is said of a phrase is divided by it; `count`: how much moves count beside that
    """

    mean: Singles
    spread: Singles
    layers: tuple[Singles, ...]
    moves: Floats
    styles: Floats
    usual: Floats
    heat: float
    count: float


@cache
def shipped() -> Model | None:
    """The model that comes with the program; None where its weights are missing or damaged."""
    try:
        with np.load(WEIGHTS, allow_pickle=False) as z:
            layers = tuple(z[str(i)].astype(np.float32) for i in range(6))
            heat, count = (float(x) for x in z["scales"])
            return Model(z["mean"], z["spread"], layers, z["moves"], z["styles"], z["usual"], heat, count)
    except (OSError, ValueError, KeyError, EOFError, BadZipFile):
        return None


def answer(model: Model, rows: Singles) -> Floats:
    """Log odds of each kind for each phrase by itself, (k, kinds)."""
    w1, b1, w2, b2, w3, b3 = model.layers
    z = np.clip((rows - model.mean) / model.spread, -_MOST, _MOST).astype(np.float32)
    hidden = np.maximum(0, np.maximum(0, z @ w1.T + b1) @ w2.T + b2)
    return np.asarray(hidden @ w3.T + b3, np.float64)


def read(model: Model, p: Phrases, bars: Bars, argued: Floats) -> tuple[Floats, Floats]:
    """The chance of each kind for each phrase, (k, kinds), and of each style, (styles,).

    Parameters
    ----------
    argued : (k, kinds) what speaks for each by habit, as log odds
    """
    return smooth(model, answer(model, figures(p, bars)) + argued)


def smooth(model: Model, odds: Floats) -> tuple[Floats, Floats]:
    """As `read`, from what is said of each phrase by itself."""
    from scipy.special import log_softmax, logsumexp

    heard = (log_softmax(odds, axis=1) - model.usual) / model.heat
    n = len(KINDS)
    each, agree = [], []
    for moves in model.moves * model.count:
        begin, end, step = moves[n, :n], moves[:n, n], moves[:n, :n]
        forward = [begin + heard[0]]
        for row in heard[1:]:
            forward.append(row + logsumexp(forward[-1][:, None] + step, axis=0))
        backward = [end]
        for row in heard[:0:-1]:
            backward.append(logsumexp(step + (row + backward[-1])[None], axis=1))
        both = np.array(forward) + np.array(backward[::-1])
        total = logsumexp(both[0])
        each.append(np.exp(both - total))
        agree.append(total)
    style = np.exp(log_softmax(np.array(agree) + model.styles))
    return np.asarray(np.tensordot(style, np.array(each), axes=1)), np.asarray(style)
