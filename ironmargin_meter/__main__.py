"""A simulated meter on the wire: ``python -m ironmargin_meter SETUP [--script SCRIPT]``.

It answers on 127.0.0.1 with what a meter at the supply of that setup would show while the script is
done, at its own update rate, over and over; with ``--mqtt`` it publishes the same to a broker.
"""

from __future__ import annotations

import argparse
import asyncio
import contextlib
import sys
import time

from pymodbus.server import StartAsyncTcpServer
from pymodbus.simulator import DataType, SimData, SimDevice

from ironmargin.bench.script import load_script
from ironmargin.errors import SetupError
from ironmargin.setup.reading import load_setup
from ironmargin_meter.fields import topic_fault
from ironmargin_meter.publisher import publish
from ironmargin_meter.reel import Reel
from ironmargin_meter.registers import COUNT, RESET_REGISTER, RESET_VALUE, encode

READ_INPUT, WRITE_ONE = 4, 6


class Wire:
    """The registers as they stand, brought up to date when they are asked for."""

    def __init__(self, reel: Reel, updates: float, speed: float) -> None:
        self.reel, self.updates, self.speed = reel, updates, speed
        self.begun = time.monotonic()
        self.shown = -1
        self.since_s = 0.0
        self.words = [0] * COUNT

    def _now(self) -> int:
        return int((time.monotonic() - self.begun) * self.updates)

    async def requested(
        self, function: int, start: int, address: int, count: int, held: list[int], given: object
    ) -> None:
        """Put what the meter shows now into the server's registers."""
        now = self._now()
        at_s = now / self.updates * self.speed
        if function == WRITE_ONE and address == RESET_REGISTER and given == [RESET_VALUE]:
            self.since_s = at_s
        if function == READ_INPUT:
            if now != self.shown:
                self.shown = now
                self.words = encode(self.reel.at(at_s, self.since_s, now))
            # ``held`` begins at register ``start``; only the asked ones are sent.
            held[:COUNT] = self.words


async def serve(reel: Reel, port: int, updates: float, speed: float) -> None:
    """Answer until stopped."""
    wire = Wire(reel, updates, speed)
    none = [SimData(0, values=[False] * 16, datatype=DataType.BITS)]
    device = SimDevice(
        id=1,
        simdata=(
            none,
            none,
            [SimData(0, values=[0], datatype=DataType.REGISTERS)],
            [SimData(0, values=[0] * COUNT, datatype=DataType.REGISTERS)],
        ),
        action=wire.requested,
    )
    await StartAsyncTcpServer(device, address=("127.0.0.1", port))


def main(argv: list[str] | None = None) -> int:
    """Run the meter; returns the exit code."""
    parser = argparse.ArgumentParser("ironmargin_meter", description=__doc__)
    parser.add_argument("setup", help="a *.setup.json")
    parser.add_argument("--script", help="a *.script.json; else everything on, one by one")
    parser.add_argument("--port", type=int, default=5020)
    parser.add_argument("--mqtt", metavar="HOST:PORT", help="publish to this broker instead")
    parser.add_argument("--topic", default="iron-margin/meter", help="with --mqtt")
    parser.add_argument("--updates", type=float, default=10.0, help="updates a second, 0.2 to 50")
    parser.add_argument("--speed", type=float, default=1.0, help="script seconds in one second")
    args = parser.parse_args(argv)
    if not 0.2 <= args.updates <= 50.0 or not 0.1 <= args.speed <= 1000.0:
        print("--updates must be 0.2 to 50 a second, --speed 0.1 to 1000", file=sys.stderr)
        return 2
    try:
        setup = load_setup(args.setup)
        script = load_script(args.script, setup) if args.script else None
    except SetupError as error:
        print("\n".join(map(str, error.faults)), file=sys.stderr)
        return 2
    reel = Reel(setup, script)
    if args.mqtt:
        host, _, port = args.mqtt.rpartition(":")
        if not host or not port.isdigit() or topic_fault(args.topic):
            print("--mqtt must be HOST:PORT, --topic like shed/meter", file=sys.stderr)
            return 2
        with contextlib.suppress(KeyboardInterrupt):
            publish(reel, host, int(port), args.topic, args.updates, args.speed)
        return 0
    try:
        asyncio.run(serve(reel, args.port, args.updates, args.speed))
    except (OSError, RuntimeError):  # what its server raises where it cannot listen
        print(f"port {args.port} cannot be used; name another: --port 5021", file=sys.stderr)
        return 2
    except KeyboardInterrupt:
        pass
    return 0


if __name__ == "__main__":
    sys.exit(main())
