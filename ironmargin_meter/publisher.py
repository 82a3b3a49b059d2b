"""The simulated meter as a publisher: the same reel, as JSON messages to an MQTT broker."""

from __future__ import annotations

import json
import time

import paho.mqtt.client as mqtt
from paho.mqtt.enums import CallbackAPIVersion

from ironmargin_meter.reel import Reel

FIELDS = {
    "volts_1": ("voltage", 1.0),
    "amps_1": ("current", 1.0),
    "watts": ("power", 1.0),
    "hz": ("frequency", 1.0),
    "wh": ("energy.total", 1000.0),
}
"""Where the simulated meter's figures stand: a small plug-in meter's map, energy in kWh."""


def message(reel: Reel, at_s: float) -> str:
    """What it publishes at a moment."""
    now = reel.at(at_s, at_s, 0)
    return json.dumps(
        {
            "voltage": round(now["volts_1"], 1),
            "current": round(now["amps_1"], 2),
            "power": round(now["watts"]),
            "frequency": round(now["hz"], 2),
            "energy": {"total": round(now["wh"] / 1000.0, 3)},
        }
    )


def publish(reel: Reel, host: str, port: int, topic: str, updates: float, speed: float) -> None:
    """Publish until stopped; a broker that is away is tried again."""
    client = mqtt.Client(CallbackAPIVersion.VERSION2)
    client.connect_async(host, port, keepalive=30)
    client.loop_start()
    begun, beat = time.monotonic(), 0
    try:
        while True:
            client.publish(topic, message(reel, beat / updates * speed))
            beat += 1
            time.sleep(max(begun + beat / updates - time.monotonic(), 0.0))
    finally:
        client.loop_stop()
        client.disconnect()
