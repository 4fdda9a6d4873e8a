"""The call logic of Hazeridge: definitions, rules and sums, and nothing else.

No Django, no input or output, no clock and no randomness of its own: time and
chance are arguments. The live exchange, trial calls and (later) the simulator
only drive what is here.
"""
