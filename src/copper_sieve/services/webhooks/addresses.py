"""Which addresses messages may be sent to.

A server can reach places that its users can't: itself, and the services that a cloud offers at
link-local addresses. They are refused unless SIEVE_HOOKS_ALLOW lists them. What counts is the
address that is connected to, so a name is resolved once and its address is checked and used.
"""

from __future__ import annotations

import asyncio
import ipaddress
import re
import socket
from dataclasses import dataclass
from typing import Any
from urllib.parse import urlsplit

from copper_sieve.core.errors import ParameterError
from copper_sieve.settings import Settings

Address = ipaddress.IPv4Address | ipaddress.IPv6Address
_LABEL = re.compile(r"(?!-)[A-Za-z0-9_-]{1,63}(?<!-)")
_LONGEST_HOST = 253
_MOST_PORT = 65535


class AddressError(Exception):
    """The address is not allowed or can't be resolved."""


def checked_url(url: str) -> str:
    """Return an address that has the form that messages can be sent to.

    Raises
    ------
    ParameterError
        It isn't http or https, contains spaces, control characters or credentials, or its host or
        port can't exist.
    """
    url = url.strip(" \t\r\n")
    if problem := _problem(url):
        raise ParameterError(
            f"{url[:100]!r} can't be used as a webhook: {problem}. Give an address such as "
            "https://build.example.org/textures"
        )
    return url


def _problem(url: str) -> str | None:
    if any(not "!" <= character <= "~" for character in url) or "\\" in url:
        return "it contains spaces, control characters, backslashes or characters outside ASCII"
    try:
        parts = urlsplit(url)
        port = parts.port
        host = parts.hostname or ""
    except ValueError:
        return "its host or port is malformed"
    if parts.scheme not in ("http", "https"):
        return "it doesn't begin with http:// or https://"
    if parts.username is not None or parts.password is not None:
        return "it contains a user name or password; messages are signed with the secret instead"
    if port is not None and not 0 < port <= _MOST_PORT:
        return "its port is out of range"
    if _literal(host) is None and not _is_host_name(host):
        return "its host isn't a host name or IP address"
    return None


def _is_host_name(host: str) -> bool:
    labels = host.removesuffix(".").split(".")
    # A name whose last label is a number is read as an IPv4 address in short form by some.
    return (
        len(host) <= _LONGEST_HOST
        and all(_LABEL.fullmatch(label) for label in labels)
        and not re.fullmatch(r"\d+|0x[0-9a-fA-F]*", labels[-1])
    )


def _literal(host: str) -> Address | None:
    try:
        return ipaddress.ip_address(host)
    except ValueError:
        return None


@dataclass(frozen=True, slots=True)
class AddressPolicy:
    """Addresses that may be called.

    Attributes
    ----------
    networks : tuple of networks
        Allowed although they would be refused.
    names : frozenset of str
        Host names that are allowed wherever they lead.
    """

    networks: tuple[ipaddress.IPv4Network | ipaddress.IPv6Network, ...] = ()
    names: frozenset[str] = frozenset()

    @classmethod
    def of(cls, settings: Settings) -> AddressPolicy:
        """Read SIEVE_HOOKS_ALLOW: addresses, networks and host names with commas between."""
        networks, names = [], set()
        for entry in filter(None, (one.strip().lower() for one in settings.hooks_allow.split(","))):
            try:
                networks.append(ipaddress.ip_network(entry, strict=False))
            except ValueError:
                names.add(entry)
        return cls(tuple(networks), frozenset(names))

    def refusal(self, address: Address) -> str | None:
        """Return why an address isn't called, or None if it may be."""
        address = getattr(address, "ipv4_mapped", None) or address
        if any(address in one for one in self.networks if one.version == address.version):
            return None
        if address.is_loopback or address.is_unspecified or _is_own(address):
            return f"{address} is an address of the server itself"
        if address.is_link_local:
            return f"{address} is a link-local address"
        if address.is_multicast or (address.is_reserved and not address.is_private):
            return f"{address} isn't the address of one machine"
        return None

    def check_literal(self, url: str) -> None:
        """Refuse a numeric address, or `localhost`, that wouldn't be called.

        Raises
        ------
        ParameterError
        """
        host = (urlsplit(url).hostname or "").lower()
        if host in self.names:
            return
        address = _literal("127.0.0.1" if host.rstrip(".") == "localhost" else host)
        if address is not None and (why := self.refusal(address)):
            raise ParameterError(f"{url} isn't called: {why}. {_HOW_TO_ALLOW}")

    async def resolve(self, url: str) -> list[str]:
        """Return the addresses to connect to, in order.

        Raises
        ------
        AddressError
            The host can't be resolved, or one of its addresses may not be called.
        """
        parts = urlsplit(checked_url(url))
        host = (parts.hostname or "").lower()
        port = parts.port or (443 if parts.scheme == "https" else 80)
        loop = asyncio.get_running_loop()
        try:
            found: list[Any] = await loop.getaddrinfo(host, port, type=socket.SOCK_STREAM)
        except (OSError, UnicodeError) as error:
            raise AddressError(f"{host} couldn't be resolved") from error
        addresses = list(dict.fromkeys(str(one[4][0]) for one in found))
        if host not in self.names:
            for one in addresses:
                if why := self.refusal(ipaddress.ip_address(one.partition("%")[0])):
                    raise AddressError(f"not called: {why}. {_HOW_TO_ALLOW}")
        return addresses


_HOW_TO_ALLOW = "To allow it, add it to SIEVE_HOOKS_ALLOW and restart the server"


def _is_own(address: Address) -> bool:
    """Return whether an address belongs to this machine: only then can it be bound."""
    family = socket.AF_INET if address.version == 4 else socket.AF_INET6
    try:
        with socket.socket(family, socket.SOCK_DGRAM) as trial:
            trial.bind((str(address), 0))
    except OSError:
        return False
    return True
