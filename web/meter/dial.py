"""Which addresses may be dialled for a person: never this machine's own services by accident.

An address is looked up here, checked, and dialled as checked, so that a name cannot mean one thing
when it is checked and another when it is dialled.
"""

from __future__ import annotations

import ipaddress
import re
import socket

from django.conf import settings

from web.meter.models import MODBUS, SIMULATED

MODBUS_PORT, MIN_FREE_PORT = 502, 1024
HIDES_IPV4 = tuple(
    ipaddress.ip_network(net)
    for net in ("64:ff9b::/96", "64:ff9b:1::/48", "::/96", "::ffff:0:0:0/96")
)
"""Networks whose last four bytes are an IPv4 address that a translator dials (RFC 6052, RFC 8215,
RFC 4291, RFC 2765; from memory)."""
HOST = re.compile(r"[0-9A-Za-z]([0-9A-Za-z.:-]{0,251}[0-9A-Za-z])?")


class Refused(Exception):
    """An address that is not dialled; the message says why and what to do."""


def form_fault(host: str, port: int | None) -> str:
    """What is wrong with an address as it was typed; empty where nothing is."""
    if host == SIMULATED:
        return ""
    if not HOST.fullmatch(host):
        return f"must be a name or an address of a meter, such as 192.168.1.40 (got {host[:60]!r})"
    if port is None or not (port == MODBUS_PORT or MIN_FREE_PORT <= port <= 65535):
        return f"the port must be {MODBUS_PORT} or {MIN_FREE_PORT} to 65535 (got {port})"
    return ""


def address_of(host: str, port: int, speaks: str = MODBUS) -> tuple[str, int]:
    """The address to dial; the simulated meter has one for each language.

    Raises:
        Refused: nothing may or can be dialled there.
    """
    if host == SIMULATED:
        where = settings.METER_SIMULATED if speaks == MODBUS else settings.METER_BROKER
        if not where:
            raise Refused("the simulated meter does not run on this server")
        own, _, own_port = where.rpartition(":")
        return own, int(own_port)
    try:
        found = socket.getaddrinfo(host, port, type=socket.SOCK_STREAM)
    except (OSError, UnicodeError):
        raise Refused(f"no meter is known by the name {host}; type its address") from None
    for _, _, _, _, at in found:
        ip = ipaddress.ip_address(str(at[0]).split("%")[0])
        why = forbidden(ip)
        if why:
            raise Refused(f"{host} is not read: {why}")
    return str(found[0][4][0]), port


def forbidden(ip: ipaddress.IPv4Address | ipaddress.IPv6Address) -> str:
    """Why an address is not dialled; empty where it may be. An address that hides an IPv4 one is
    judged by that one, too.
    """
    inner = _hidden(ip)
    if inner is not None:
        mapped = isinstance(ip, ipaddress.IPv6Address) and ip.ipv4_mapped
        return forbidden(inner) or ("" if mapped else _judged(ip))
    return _judged(ip)


def _judged(ip: ipaddress.IPv4Address | ipaddress.IPv6Address) -> str:
    if ip.is_loopback or ip.is_unspecified or ip.is_multicast or ip.is_link_local:
        return "it is this server's own, or no single machine's"
    if any(ip in net for net in settings.METER_NETS if net.version == ip.version):
        return "it is this server itself" if _own(ip) else ""
    if not ip.is_global:
        return "it lies in this server's private network; IRONMARGIN_METER_NETS allows some"
    return "it is this server itself" if _own(ip) else ""


def _hidden(ip: ipaddress.IPv4Address | ipaddress.IPv6Address) -> ipaddress.IPv4Address | None:
    """The IPv4 address that an IPv6 one stands for: mapped, translated, 6to4 or tunnelled."""
    if ip.version == 4 or ip.is_loopback or ip.is_unspecified:
        return None
    if ip.ipv4_mapped or ip.sixtofour:
        return ip.ipv4_mapped or ip.sixtofour
    if ip.teredo:
        return ip.teredo[1]
    if any(ip in net for net in HIDES_IPV4):
        return ipaddress.IPv4Address(int(ip) & 0xFFFFFFFF)
    return None


def _own(ip: ipaddress.IPv4Address | ipaddress.IPv6Address) -> bool:
    """Whether an address is one of this machine's: only those can be bound."""
    family = socket.AF_INET6 if ip.version == 6 else socket.AF_INET
    with socket.socket(family, socket.SOCK_DGRAM) as probe:
        try:
            probe.bind((str(ip), 0))
        except OSError:
            return False
    return True
