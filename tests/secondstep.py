"""What an app on a phone shows of a second step."""

import base64
import hashlib
import hmac
import struct
import time


def code_of(secret: str) -> str:
    """The six digits of this moment, as RFC 6238 has it; spaces in the key are for people."""
    counted = struct.pack(">Q", int(time.time()) // 30)
    digest = hmac.new(base64.b32decode(secret.replace(" ", "")), counted, hashlib.sha1).digest()
    at = digest[-1] & 15
    return f"{(struct.unpack('>I', digest[at : at + 4])[0] & 0x7FFFFFFF) % 1_000_000:06d}"
