"""What the bench raises.

BenchError
├── ProfileError      an instrument profile cannot be used
├── UnreachableError  nothing answers at the address, or the wire broke
└── AnswerError       the instrument answered something that is no answer
"""


class BenchError(Exception):
    """Something about an instrument; ``str()`` is one sentence for the user."""


class ProfileError(BenchError):
    """An instrument profile cannot be used."""


class UnreachableError(BenchError):
    """Nothing answers at the address, or the wire broke."""


class AnswerError(BenchError):
    """The instrument answered something that is no answer."""
