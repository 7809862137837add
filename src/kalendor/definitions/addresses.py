"""Mail addresses and host names by their grammar (RFC 5321, RFC 6531, RFC 1123)."""

import ipaddress
import re
from typing import Annotated

from pydantic import AfterValidator

_ATOM = r"[A-Za-z0-9!#$%&'*+/=?^_`{|}~\u0080-\U0010ffff-]+"
_LOCAL = re.compile(rf"{_ATOM}(\.{_ATOM})*")
_LABEL = re.compile(r"(?!-)[A-Za-z0-9\u00a1-\U0010ffff-]{1,63}(?<!-)")
MOST_ADDRESS, MOST_LOCAL, MOST_HOST = 254, 64, 253


def host(name: str) -> str:
    """The name of a host, or its address.

    Raises ValueError for anything else.

    >>> host("mail.example"), host("::1")
    ('mail.example', '::1')
    """
    try:
        return str(ipaddress.ip_address(name.removeprefix("[").removesuffix("]")))
    except ValueError:
        pass
    labels = name.removesuffix(".").split(".")
    plain = name.isprintable() and len(name) <= MOST_HOST and all(_LABEL.fullmatch(label) for label in labels)
    if not plain or labels[-1].isdigit():
        raise ValueError(f"{name!r} is no name of a host; write it as mail.example")
    return name


def address(written: str) -> str:
    """A mail address.

    Raises ValueError for anything else.
    """
    local, at, domain = written.rpartition("@")
    if not at or not written.isprintable() or len(written.encode()) > MOST_ADDRESS or len(local.encode()) > MOST_LOCAL:
        raise ValueError(f"{written!r} is no address; write it as name@company.example")
    if not _LOCAL.fullmatch(local):
        raise ValueError(f"{written!r} is no address: {local!r} cannot stand before the @")
    try:
        host(domain)
    except ValueError:
        raise ValueError(f"{written!r} is no address: {domain!r} cannot stand after the @") from None
    return written


Address = Annotated[str, AfterValidator(address)]
HostName = Annotated[str, AfterValidator(host)]
