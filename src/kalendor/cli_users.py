"""The command `user`: accounts and API tokens."""

import json
import sys
from datetime import date, datetime
from getpass import getpass
from pathlib import Path
from typing import TYPE_CHECKING, Annotated, Optional

import typer

from kalendor.errors import DefinitionError

if TYPE_CHECKING:
    from kalendor.store.accounts import Accounts

users = typer.Typer(
    help="Manage accounts and API tokens. With the first one, everybody signs in.", no_args_is_help=True
)
Folder = Annotated[Path, typer.Option("--workspace", help="The workspace folder.")]
Named = Annotated[str, typer.Argument(help="The account's name.")]
HERE = Path("workspace")


def _accounts(workspace: Path) -> "Accounts":
    from kalendor.store.accounts import Accounts
    from kalendor.store.workspace import Workspace

    return Accounts(Workspace(workspace))


def _password() -> str:
    """Prompted twice on a terminal, else the first line of standard input: never a command-line argument, which other
    users of the machine could read."""
    if not sys.stdin.isatty():
        return sys.stdin.readline().rstrip("\r\n")
    first = getpass("Password: ")
    if getpass("Once more: ") != first:
        raise DefinitionError("the two differ; nothing was changed")
    return first


@users.command()
def add(
    name: Named,
    role: Annotated[str, typer.Option(help="analyst: may do everything; reader: reads what is issued.")] = "analyst",
    workspace: Folder = HERE,
) -> None:
    """Add an account; its password is prompted for, or read from standard input."""
    made = _accounts(workspace).add(name, role, _password(), datetime.now())
    print(f"{made.name}: {made.role}")


@users.command("list")
def list_(workspace: Folder = HERE, as_json: Annotated[bool, typer.Option("--json", help="As JSON.")] = False) -> None:
    """List accounts and API tokens."""
    accounts = _accounts(workspace)
    if as_json:
        found = {"accounts": [vars(a) for a in accounts.all()], "tokens": [vars(t) for t in accounts.tokens()]}
        print(json.dumps(found, ensure_ascii=False, indent=1))
        return
    for one in accounts.all():
        print(f"{one.name} · {one.role} · since {one.made_at[:10]}")
    for token in accounts.tokens():
        state = (
            f"withdrawn {token.withdrawn_at[:10]}" if token.withdrawn_at else f"until {token.ends_on or 'withdrawn'}"
        )
        scope = "" if token.source_id is None else f" · brings files in to source {token.source_id}"
        print(f"token {token.id} of {token.account} · {token.name}{scope} · {state}")


@users.command()
def password(name: Named, workspace: Folder = HERE) -> None:
    """Change a password; the account is signed out everywhere."""
    accounts = _accounts(workspace)
    accounts.named(name)
    accounts.set_password(name, _password())
    print(f"{name}: signed out everywhere")


@users.command()
def remove(name: Named, workspace: Folder = HERE) -> None:
    """Remove an account; what it did keeps its name."""
    _accounts(workspace).close(name, datetime.now())
    print(f"{name}: closed")


@users.command("sign-out")
def sign_out(name: Named, workspace: Folder = HERE) -> None:
    """Sign an account out everywhere."""
    _accounts(workspace).end_all(name)
    print(f"{name}: signed out everywhere")


@users.command()
def token(
    name: Named,
    what_for: Annotated[str, typer.Option("--for", help="What it is for.")],
    until: Annotated[Optional[str], typer.Option(help="The last day on which it is valid, as 2027-06-30.")] = None,
    source: Annotated[
        Optional[str], typer.Option(help="It imports files into this source and does nothing else.")
    ] = None,
    workspace: Folder = HERE,
) -> None:
    """Create an API token that reads what the account may read (Authorization: Bearer ...), or imports files into one source; it is
    shown only once."""
    try:
        ends_on = date.fromisoformat(until) if until else None
    except ValueError:
        raise DefinitionError(f"--until {until}: write the day as 2027-06-30") from None
    _, secret = _accounts(workspace).make_token(name, what_for, ends_on, datetime.now(), _source(workspace, source))
    print(secret)


def _source(workspace: Path, name: str | None) -> int | None:
    from kalendor.store.sources import Sources
    from kalendor.store.workspace import Workspace

    if name is None:
        return None
    found = Sources(Workspace(workspace)).named(name)
    if found is None:
        raise DefinitionError(f"--source {name}: there is no such source; bring its first file in before")
    return found.id


@users.command("withdraw-token")
def withdraw_token(
    number: Annotated[int, typer.Argument(help="The token's number from `kalendor user list`.")],
    workspace: Folder = HERE,
) -> None:
    """Revoke an API token."""
    _accounts(workspace).withdraw_token(number, datetime.now())
    print(f"token {number}: withdrawn")
