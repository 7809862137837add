"""The desk that a request works at."""

from typing import Annotated

from fastapi import Depends, Request

from kalendor.desk.desk import Desk


def _desk(request: Request) -> Desk:
    desk: Desk = request.app.state.desk
    return desk


AtDesk = Annotated[Desk, Depends(_desk)]
