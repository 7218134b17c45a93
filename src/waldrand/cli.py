"""Everything Waldrand does, without a window: one command for each module of `waldrand.commands`, and for each kind of pass."""

from __future__ import annotations

import signal
import sys
from threading import Event

from .commands import BAD, BROKEN, OK, STOPPED
from .commands.parser import build_parser
from .core.passes.watch import Stopped
from .core.refused import Refused
from .log import LOG, begin_logging, mistake


def main(arguments: list[str] | None = None) -> int:
    """Runs a command; returns its exit status: 0, 1 a check found a difference, 2 bad input, 70 a mistake of ours, 130 stopped."""
    stop = Event()
    before = signal.getsignal(signal.SIGINT)
    try:
        options = build_parser().parse_args(arguments)
        begin_logging(options.verbose)
        LOG.info("command %s", options.command or "open")
        if options.interruptible:
            signal.signal(signal.SIGINT, lambda *_: stop.set())
        return int(options.act(options, stop))
    except Refused as error:
        LOG.info("refused: %s", error)
        print(f"waldrand: {error}", file=sys.stderr)
        return BAD
    except (Stopped, KeyboardInterrupt):
        print("waldrand: stopped; what was finished before is kept.", file=sys.stderr)
        return STOPPED
    except BrokenPipeError:
        return OK
    except MemoryError:
        print("waldrand: there is not enough memory for this. Close other programs, or use a smaller picture.", file=sys.stderr)
        return BAD
    except Exception as error:
        print(f"waldrand: {mistake(error)}", file=sys.stderr)
        return BROKEN
    finally:
        signal.signal(signal.SIGINT, before)


if __name__ == "__main__":
    sys.exit(main())
