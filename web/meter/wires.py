"""The wires a meter may be read by, each with the same few words: connect, read, begin the holds
anew, close.
"""

from __future__ import annotations

import contextlib
from collections.abc import Callable
from time import monotonic
from typing import Protocol

import paho.mqtt.client as mqtt
from paho.mqtt.enums import CallbackAPIVersion, MQTTErrorCode
from paho.mqtt.reasoncodes import ReasonCode
from pymodbus.client import ModbusTcpClient
from pymodbus.exceptions import ModbusException

from ironmargin_meter.fields import MAX_PAYLOAD, Shown, figures_of, topics_of
from ironmargin_meter.registers import COUNT, RESET_REGISTER, RESET_VALUE, Nonsense, Reading, decode
from web.meter.models import MQTT, Meter

PATIENCE_S = 2.0
"""A meter that has not answered for so long is silent."""
LISTENS_S = 0.1
MAX_PACKET = MAX_PAYLOAD + 1024
MAX_BYTES_A_SECOND = 256 * 1024
"""A broker that sends more is cut off: a meter sends some hundred bytes a second."""


class Wire(Protocol):
    """One meter's connection.

    ``hangs_s``: figures that stand still for so long mean that the meter hangs.
    """

    hangs_s: float

    def connect(self) -> None:
        """Connect, or raise OSError."""

    def read(self) -> Reading | None:
        """What it shows; None where it has shown nothing yet. Raises Nonsense or OSError."""

    def reset(self) -> None:
        """Begin its held figures anew."""

    def close(self) -> None:
        """Hang up."""


class ModbusWire:
    """Asked ten times a second, and answers each time."""

    hangs_s = 3.0

    def __init__(self, held: Meter, host: str, port: int) -> None:
        self.unit = held.unit
        self.client = ModbusTcpClient(host, port=port, timeout=PATIENCE_S, retries=0)

    def connect(self) -> None:
        if not self.client.connect():  # type: ignore[no-untyped-call]
            raise ConnectionError

    def read(self) -> Reading:
        try:
            answer = self.client.read_input_registers(0, count=COUNT, device_id=self.unit)
        except ModbusException:
            raise ConnectionError from None
        if answer.isError():
            raise Nonsense(f"it refuses with exception {getattr(answer, 'exception_code', '?')}")
        return decode(answer.registers)

    def reset(self) -> None:
        with contextlib.suppress(ModbusException):
            self.client.write_register(RESET_REGISTER, RESET_VALUE)

    def close(self) -> None:
        with contextlib.suppress(OSError, ModbusException):
            self.client.close()  # type: ignore[no-untyped-call]


class Client(mqtt.Client):
    """A client that takes no more from a broker than a meter can mean.

    The library reads a packet as long as the broker says it is, up to 256 MB; here a longer one
    than any we look at, or too much in a second, ends the connection.
    """

    def __init__(self) -> None:
        super().__init__(CallbackAPIVersion.VERSION2)
        self.second, self.taken = 0, 0

    def _sock_recv(self, bufsize: int) -> bytes:
        if bufsize > MAX_PACKET:
            raise Nonsense(f"a message of {bufsize:,} bytes; {MAX_PAYLOAD:,} are looked at")
        data: bytes = super()._sock_recv(bufsize)
        second = int(monotonic())
        self.taken = len(data) + (self.taken if second == self.second else 0)
        self.second = second
        if self.taken > MAX_BYTES_A_SECOND:
            raise Nonsense(f"it sends more than {MAX_BYTES_A_SECOND // 1024} kB a second")
        return data


class MqttWire:
    """Listened to: of what was published the newest counts."""

    hangs_s = 90.0

    def __init__(self, held: Meter, host: str, port: int) -> None:
        self.topic = held.topic
        self.places = {k: (str(v[0]), float(v[1])) for k, v in held.places.items()}
        self.host, self.port, self.shown = host, port, Shown()
        self.wrong: Nonsense | None = None
        self.subscribed = False
        self.client = Client()
        self.client.on_connect = self._connected
        self.client.on_message = self._heard
        if held.user:
            self.client.username_pw_set(held.user, held.password)

    def _connected(
        self, client: mqtt.Client, data: object, flags: object, reason: ReasonCode, more: object
    ) -> None:
        if reason.is_failure:
            self.wrong = Nonsense(f"the broker refuses: {str(reason).lower()[:60]}")
            return
        client.subscribe([(topic, 0) for topic in sorted(topics_of(self.topic, self.places))])
        self.subscribed = True

    def _heard(self, client: mqtt.Client, data: object, message: mqtt.MQTTMessage) -> None:
        try:
            figures = figures_of(message.topic, bytes(message.payload), self.topic, self.places)
        except Nonsense as why:
            self.wrong = why
            return
        if figures:
            self.shown.add(figures)

    def connect(self) -> None:
        self.client.connect_timeout = PATIENCE_S
        self.client.connect(self.host, self.port, keepalive=30)
        until = monotonic() + PATIENCE_S
        while not self.subscribed:
            self._turn()
            if monotonic() > until:
                raise ConnectionError

    def _turn(self) -> None:
        code = self.client.loop(timeout=LISTENS_S)
        if self.wrong is not None:
            raise self.wrong
        if code != MQTTErrorCode.MQTT_ERR_SUCCESS:
            raise ConnectionError

    def read(self) -> Reading | None:
        until = monotonic() + LISTENS_S
        while True:
            self._turn()
            if monotonic() >= until:
                return self.shown.reading()

    def reset(self) -> None:
        self.shown.begin()

    def close(self) -> None:
        with contextlib.suppress(OSError, ValueError):
            self.client.disconnect()


def wire_to(held: Meter, host: str, port: int) -> Wire:
    """The wire to a meter, by the language it speaks."""
    makes: Callable[[Meter, str, int], Wire] = MqttWire if held.speaks == MQTT else ModbusWire
    return makes(held, host, port)
