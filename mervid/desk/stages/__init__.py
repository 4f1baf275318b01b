"""The stages of the work, in their order: one folder and one line here for each."""

from .align.stage import AlignStage
from .deliver.stage import DeliverStage
from .gather.stage import GatherStage
from .phrase.stage import PhraseStage
from .rehearse.stage import RehearseStage

STAGES = (GatherStage, AlignStage, PhraseStage, RehearseStage, DeliverStage)
