"""Pagination: the rows after a cursor, and the address of the next page as a Link header."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from typing import Annotated, TypeVar

from fastapi import Depends, Query, Request, Response

from copper_sieve.core.errors import NotFoundError

T = TypeVar("T")


class Page:
    """A page of a list; without `limit` it is the whole list.

    after : key of the last row of the previous page
    limit : maximum number of rows. If there are more, the `Link` header of the response contains
    the address of the next page with rel="next" (RFC 8288).
    """

    def __init__(
        self,
        request: Request,
        response: Response,
        after: Annotated[str | None, Query(max_length=200)] = None,
        limit: Annotated[int | None, Query(ge=1, le=1000)] = None,
    ) -> None:
        self._request, self._response = request, response
        self._after, self._limit = after, limit

    def of(self, rows: Sequence[T], key: Callable[[T], object]) -> list[T]:
        """Return the rows of this page.

        key : returns the stable, unique key of a row
        Raises NotFoundError if the row of the cursor no longer exists.
        """
        begin = 0
        if self._after is not None:
            keys = [str(key(row)) for row in rows]
            if self._after not in keys:
                raise NotFoundError(
                    f"Row {self._after} no longer exists. Request the first page, without `after`"
                )
            begin = keys.index(self._after) + 1
        end = len(rows) if self._limit is None else begin + self._limit
        if begin < end < len(rows):
            following = self._request.url.include_query_params(after=str(key(rows[end - 1])))
            target = following.path + (f"?{following.query}" if following.query else "")
            self._response.headers["Link"] = f'<{target}>; rel="next"'
        return list(rows[begin:end])


PageDep = Annotated[Page, Depends()]
