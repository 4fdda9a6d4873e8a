"""What each kind of step does, in functions that take the machine and give an outcome.

`begin` functions start a step at which the contact stays; `decide` functions name the
exit of one that takes no time; the others answer to keys, time and what comes from
outside. The machine (`callcore.flow.runner`) knows them by their tables.
"""
