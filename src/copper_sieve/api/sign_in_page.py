"""The sign-in page, and the page that continues after a link from another site."""

from __future__ import annotations

import html
from urllib.parse import urlencode

from starlette.responses import HTMLResponse, Response

STYLE_PATH = "/access.css"
_NO_STORE = {"Cache-Control": "no-store"}
_SIGN_IN = """<!doctype html><html lang="en"><meta charset="utf-8"><title>Copper Sieve</title>
<meta name="viewport" content="width=device-width">
<link rel="stylesheet" href="/access.css">
<main><h1>Copper Sieve</h1>
<form method="post" action="/access?to={to}">
<label for="token">Access token</label>
<input id="token" name="token" type="password" autocomplete="current-password" autofocus required>
<button>Sign in</button></form>
<p role="alert">{problem}</p>
<p>The server prints its address with the token when it starts and keeps the token in the file
<code>access-token</code> in its data folder.</p></main></html>"""
_CONTINUE = """<!doctype html><html lang="en"><meta charset="utf-8"><title>Copper Sieve</title>
<meta http-equiv="refresh" content="0; url={to}"><link rel="stylesheet" href="/access.css">
<main><h1>Copper Sieve</h1><p><a href="{to}">Continue</a></p></main></html>"""
_STYLE = """body{background:#ECE7DF;color:#25211C;font:16px/1.5 sans-serif;margin:0}
main{max-width:26rem;margin:18vh auto 0;padding:1.75rem 2rem;background:#F7F4EF;
border:1px solid #D6CEC2;border-radius:6px}h1{font-size:1.2rem;margin:0 0 1rem}
form{display:grid;grid-template-columns:1fr auto;gap:.35rem .6rem}label{grid-column:1/-1}
input,button{font:inherit;padding:.4rem .6rem;border:1px solid #6A6259;border-radius:4px}
button{background:#A4512A;border-color:#A4512A;color:#fff}
input:focus-visible,button:focus-visible{outline:2px solid #A4512A;outline-offset:2px}
p{color:#6A6259;font-size:.875rem;margin:1rem 0 0}p[role=alert]{color:#A12B2B}p:empty{display:none}
"""


def style_sheet() -> Response:
    """Return the style sheet of both pages."""
    return Response(_STYLE, media_type="text/css")


def sign_in_page(to: str, problem: str = "", status: int = 401) -> Response:
    """Return the sign-in page.

    Parameters
    ----------
    to : str
        Path to open after signing in.
    problem : str
        Why the last token was rejected; empty before the first attempt.
    status : int
        HTTP status of the response.
    """
    query = html.escape(urlencode({"": to})[1:])
    text = _SIGN_IN.format(to=query, problem=html.escape(problem))
    return HTMLResponse(text, status, _NO_STORE)


def continue_page(to: str) -> Response:
    """Return a page that opens a path of this server immediately.

    Browsers send `SameSite=Strict` cookies only with requests from the server's own pages, so a
    link on another site opens the session through this page.
    """
    return HTMLResponse(_CONTINUE.format(to=html.escape(to)), 200, _NO_STORE)
