"""The two ways in which a request can fail, both worded for the person who made it."""


class MervidError(Exception):
    """Base of every failure whose text may be shown as it is."""


class AudioError(MervidError):
    """A recording can't be read or holds nothing to analyse."""


class Changed(AudioError):
    """A recording was written to while it was read: reading it again may do."""


class Refused(MervidError):
    """An edit that must not be made: the preparation is locked, or the result would be no grid."""


class FormatError(MervidError):
    """A file that should hold beats or cues holds something else."""


class Cancelled(MervidError):
    """The person took the job back."""
