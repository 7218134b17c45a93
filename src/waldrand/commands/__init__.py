"""What can be done from the command line: one module a command, found by its name.

A module has HELP, what the command does in a line; `add(parser)`, its arguments; and `act(options, stop)`, which does it and returns the
exit status. KIND, where it has one, is the kind of pass that it runs; kinds without a module of their own get the plain one (`picture`).
"""

OK, DIFFERENT, BAD, BROKEN, STOPPED = 0, 1, 2, 70, 130
