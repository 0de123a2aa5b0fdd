"""Letters: the short name that each treatment carries once the key is open."""


def letter_of(place: int) -> str:
    """The letter of the treatment at ``place`` (from 0) of the plan: A to Z, then AA, AB and so on.

    >>> letter_of(0), letter_of(25), letter_of(26)
    ('A', 'Z', 'AA')
    """
    return (letter_of(place // 26 - 1) if place >= 26 else "") + chr(ord("A") + place % 26)
