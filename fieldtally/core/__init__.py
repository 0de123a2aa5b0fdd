"""The rules of the job: pure functions over plain values.

No framework, no input or output, no clock and no hidden randomness: the time and the random generator are arguments.
"""
