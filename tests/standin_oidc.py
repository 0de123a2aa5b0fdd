"""A sign-in of a society's own, as OpenID Connect has it: whoever comes is known as ``who`` says, at once."""

from __future__ import annotations

import json
import secrets
import threading
import time
from contextlib import contextmanager
from http.server import BaseHTTPRequestHandler, ThreadingHTTPServer
from urllib.parse import parse_qs, urlencode, urlsplit

import jwt
from cryptography.hazmat.primitives.asymmetric import rsa
from jwt.algorithms import RSAAlgorithm

CLIENT, SECRET = "tally", "only-for-tests"


class SignIn:
    """One that runs: its ``address``, and who comes next (``who``: claims of OpenID Connect)."""

    def __init__(self) -> None:
        self.who: dict[str, object] = {
            "sub": "77",
            "name": "Ada Fell",
            "email": "ada@fell.example",
            "email_verified": True,
        }
        self.refuses = False
        self.address = ""
        self.codes: dict[str, dict[str, str]] = {}
        self.key = rsa.generate_private_key(public_exponent=65537, key_size=2048)

    def id_token(self, nonce: str) -> str:
        """Who it is, signed."""
        now = int(time.time())
        claims = {"iss": self.address, "aud": CLIENT, "iat": now, "exp": now + 300, **self.who}
        return jwt.encode({**claims, **({"nonce": nonce} if nonce else {})}, self.key, "RS256", headers={"kid": "k1"})


def _handler(place: SignIn) -> type[BaseHTTPRequestHandler]:
    class Handler(BaseHTTPRequestHandler):
        def log_message(self, *_: object) -> None:
            pass

        def _said(self, body: object) -> None:
            told = json.dumps(body).encode()
            self.send_response(200)
            self.send_header("Content-Type", "application/json")
            self.send_header("Content-Length", str(len(told)))
            self.end_headers()
            self.wfile.write(told)

        def do_GET(self) -> None:
            parts = urlsplit(self.path)
            asked = {name: values[0] for name, values in parse_qs(parts.query).items()}
            if parts.path == "/.well-known/openid-configuration":
                self._said(
                    {
                        "issuer": place.address,
                        "authorization_endpoint": f"{place.address}/authorize",
                        "token_endpoint": f"{place.address}/token",
                        "userinfo_endpoint": f"{place.address}/userinfo",
                        "jwks_uri": f"{place.address}/keys",
                        "token_endpoint_auth_methods_supported": ["client_secret_post"],
                    }
                )
            elif parts.path == "/authorize":
                code = secrets.token_urlsafe(12)
                place.codes[code] = asked
                back = {"state": asked["state"], **({"error": "access_denied"} if place.refuses else {"code": code})}
                self.send_response(302)
                self.send_header("Location", f"{asked['redirect_uri']}?{urlencode(back)}")
                self.end_headers()
            elif parts.path == "/keys":
                key = RSAAlgorithm.to_jwk(place.key.public_key(), as_dict=True)
                self._said({"keys": [{**key, "kid": "k1", "use": "sig", "alg": "RS256"}]})
            elif parts.path == "/userinfo":
                self._said(place.who)
            else:
                self.send_error(404)

        def do_POST(self) -> None:
            body = self.rfile.read(int(self.headers.get("Content-Length", 0))).decode()
            given = {name: values[0] for name, values in parse_qs(body).items()}
            asked = place.codes.pop(given.get("code", ""), None)
            if asked is None or given.get("client_secret") != SECRET:
                self.send_error(400)
                return
            token = place.id_token(asked.get("nonce", ""))
            self._said({"access_token": "a", "token_type": "Bearer", "expires_in": 300, "id_token": token})

    return Handler


@contextmanager
def signing_in(port: int = 0):
    """Such a sign-in on this machine, while it is needed."""
    place = SignIn()
    server = ThreadingHTTPServer(("127.0.0.1", port), _handler(place))
    place.address = f"http://127.0.0.1:{server.server_address[1]}"
    threading.Thread(target=server.serve_forever, daemon=True).start()
    try:
        yield place
    finally:
        server.shutdown()
        server.server_close()
