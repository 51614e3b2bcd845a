"""Tokens a crew made for its programs; only their prints are kept."""

import hashlib
import secrets
from datetime import UTC, datetime, timedelta
from typing import Final
from uuid import UUID, uuid4

from sqlalchemy import delete, func, select, update
from sqlalchemy.orm import Session

from keeve.core.message.errors import Code, Fault, MixError
from keeve.core.message.said import Amount, Said
from keeve.store.tables import Crew, TokenRow

MOST_TOKENS: Final = 40
_BEGINS: Final = "keeve_"
_NOTED: Final = timedelta(minutes=10)
"""When a token was last used is written down no oftener: a program may ask many times a second."""


def _print(token: str) -> str:
    # A token is 32 random bytes: nothing to guess, so no slow hash is needed.
    return hashlib.sha256(token.encode()).hexdigest()


class TokenStore:
    """Tokens for programs; flushes only, the caller commits."""

    def __init__(self, session: Session) -> None:
        self._session = session

    def all(self, crew_id: UUID) -> list[TokenRow]:
        """Return a crew's tokens, the newest first."""
        query = select(TokenRow).where(TokenRow.crew_id == crew_id).order_by(TokenRow.made_at.desc(), TokenRow.id)
        return list(self._session.scalars(query))

    def make(self, crew_id: UUID, name: str) -> str:
        """Make a token; it is shown once and cannot be read again.

        Raises
        ------
        MixError : there are too many
        """
        have = select(func.count()).select_from(TokenRow).where(TokenRow.crew_id == crew_id)
        if (self._session.scalar(have) or 0) >= MOST_TOKENS:
            said = Said("There are {n} tokens already.", n=Amount(MOST_TOKENS, "whole"))
            raise MixError(Fault(Code.TOO_MANY, said, "Take back those that are not used."))
        token = _BEGINS + secrets.token_urlsafe(32)
        self._session.add(TokenRow(crew_id=crew_id, id=uuid4(), name=name, print=_print(token)))
        self._session.flush()
        return token

    def take_back(self, crew_id: UUID, token_id: UUID) -> None:
        """Let a token be good for nothing any more."""
        self._session.execute(delete(TokenRow).where(TokenRow.crew_id == crew_id, TokenRow.id == token_id))

    def fits(self, crew: str, token: str) -> bool:
        """Whether a token is one of a crew's, by the crew's name; notes that it was used."""
        query = select(TokenRow).join(Crew, Crew.id == TokenRow.crew_id)
        row = self._session.scalars(query.where(Crew.name == crew, TokenRow.print == _print(token))).one_or_none()
        if row is None:
            return False
        now = datetime.now(UTC)
        if row.used_at is None or now - row.used_at > _NOTED:
            self._session.execute(
                update(TokenRow).where(TokenRow.crew_id == row.crew_id, TokenRow.id == row.id).values(used_at=now)
            )
        return True
