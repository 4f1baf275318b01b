"""What each phrase is for, judged over the whole track at once.

Small networks, beside arguments made by hand (`labelling`), say what a phrase is by itself; what follows what tells
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
from . import role_features, small_nets
from .small_nets import Nets

WEIGHTS = Path(__file__).parent / "weights" / "roles.npz"
WEIGHTS_SUNG = WEIGHTS.with_name("roles_sung.npz")
KINDS = ("intro", "verse", "pre", "chorus", "turn", "break", "build", "drop", "outro")
"""What a phrase can be, finer than roles: 'pre' leads into a chorus, 'turn' is a turnaround of a few bars."""
STYLES = ("dance", "song with a hook", "hip-hop", "long vamps")


@attrs.frozen(eq=False)
class Model:
    """What was learned.

    Attributes
    ----------
    nets : what says of a phrase by itself which kind it is
    moves : (styles, kinds + 1, kinds + 1) log chance of each kind after each; the last row begins, the last column ends
    styles : (2, styles) log chance of each style of what has no voice, and of what is sung, before more is heard
    usual : (kinds,) log share of each kind in what the network was shown
    heat : what is said of a phrase is divided by it; `count`: how much moves count beside that
    """

    nets: Nets
    moves: Floats
    styles: Floats
    usual: Floats
    heat: float
    count: float


@cache
def shipped(sung: bool) -> Model | None:
    """The model for what is sung or isn't; None where its weights are missing or damaged.

    Where nobody sings, figures of places alone are read: what the sound of rendered instruments taught doesn't hold.
    """
    path, wanted = (WEIGHTS_SUNG, role_features.COUNT) if sung else (WEIGHTS, role_features.PLACES)
    try:
        with np.load(path, allow_pickle=False) as z:
            heat, count = (float(x) for x in z["scales"])
            model = Model(small_nets.read(z), z["moves"], z["styles"], z["usual"], heat, count)
        return model if model.nets.mean.shape == (wanted,) else None
    except (OSError, ValueError, KeyError, EOFError, BadZipFile):
        return None


def read(model: Model, figures: Singles, habit: Floats, *, sung: bool) -> tuple[Floats, Floats]:
    """The chance of each kind for each phrase, (k, kinds), and of each style, (styles,).

    Parameters
    ----------
    figures : (k, figures) see `role_features`; the first of them may be all that the model reads
    habit : (k, kinds) what speaks for each by habit, as log odds
    sung : whether there is a voice in much of the track
    """
    return smooth(model, small_nets.answer(model.nets, figures[:, : len(model.nets.mean)]) + habit, sung=sung)


def smooth(model: Model, odds: Floats, *, sung: bool) -> tuple[Floats, Floats]:
    """As `read`, from what is said of each phrase by itself: sums forward and backward, scaled at each phrase."""
    heard = (odds - np.logaddexp.reduce(odds, axis=1)[:, None] - model.usual) / model.heat
    says = np.exp(heard - heard.max(axis=1)[:, None])
    n = len(KINDS)
    moves = np.exp(model.moves * model.count)
    begin, end, step = moves[:, n, :n], moves[:, :n, n], moves[:, :n, :n]
    forward = [_scaled(begin * says[0])]
    for row in says[1:]:
        forward.append(_scaled((forward[-1][0][:, None] @ step)[:, 0] * row))
    agree = np.sum([np.log(size) for _, size in forward], axis=0) + np.log((forward[-1][0] * end).sum(axis=1))
    backward = [end]
    for row in says[:0:-1]:
        backward.append(_scaled((step @ (row * backward[-1])[:, :, None])[:, :, 0])[0])
    both = np.array([f for f, _ in forward]) * np.array(backward[::-1])
    both /= both.sum(axis=2, keepdims=True)
    style = agree + model.styles[int(sung)]
    style = np.exp(style - np.logaddexp.reduce(style))
    return np.tensordot(both, style, axes=(1, 0)), style


def _scaled(x: Floats) -> tuple[Floats, Floats]:
    """Rows of sum 1, and what they were divided by."""
    size = x.sum(axis=1)
    return x / size[:, None], size
