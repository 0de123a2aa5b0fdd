"""A cache on Redis that does without Redis while it is away: nothing is found, and counts begin anew.

What is kept there may be lost at any time (counts that throttle, results that are made again), so no request fails or waits for it.
"""

from __future__ import annotations

import logging
from collections.abc import Callable
from typing import Any

from django.core.cache.backends.base import DEFAULT_TIMEOUT
from django.core.cache.backends.redis import RedisCache
from redis.exceptions import RedisError

TOLD = logging.getLogger("fieldtally.cache")


class ForgivingCache(RedisCache):
    """Django's own, whose errors are misses."""

    def _or(self, missing: Any, ask: Callable[[], Any]) -> Any:
        try:
            return ask()
        except (RedisError, OSError) as error:
            TOLD.warning("The cache is away: %s", type(error).__name__)
            return missing

    def add(self, key: Any, value: Any, timeout: Any = DEFAULT_TIMEOUT, version: Any = None) -> bool:
        """True while it is away: whoever asks first may go on."""
        return bool(self._or(True, lambda: super(ForgivingCache, self).add(key, value, timeout, version)))

    def get(self, key: Any, default: Any = None, version: Any = None) -> Any:
        """``default`` while it is away."""
        return self._or(default, lambda: super(ForgivingCache, self).get(key, default, version=version))

    def set(self, key: Any, value: Any, timeout: Any = DEFAULT_TIMEOUT, version: Any = None) -> None:
        """Nothing is kept while it is away."""
        self._or(None, lambda: super(ForgivingCache, self).set(key, value, timeout, version))

    def touch(self, key: Any, timeout: Any = DEFAULT_TIMEOUT, version: Any = None) -> bool:
        """False while it is away."""
        return bool(self._or(False, lambda: super(ForgivingCache, self).touch(key, timeout, version)))

    def delete(self, key: Any, version: Any = None) -> bool:
        """False while it is away."""
        return bool(self._or(False, lambda: super(ForgivingCache, self).delete(key, version=version)))

    def get_many(self, keys: Any, version: Any = None) -> dict[Any, Any]:
        """Nothing while it is away."""
        return dict(self._or({}, lambda: super(ForgivingCache, self).get_many(keys, version=version)))

    def has_key(self, key: Any, version: Any = None) -> bool:
        """False while it is away."""
        return bool(self._or(False, lambda: super(ForgivingCache, self).has_key(key, version=version)))

    def incr(self, key: Any, delta: int = 1, version: Any = None) -> int:
        """``delta`` while it is away."""
        return int(self._or(delta, lambda: super(ForgivingCache, self).incr(key, delta, version=version)))

    def set_many(self, data: Any, timeout: Any = DEFAULT_TIMEOUT, version: Any = None) -> list[Any]:
        """All are told as not kept while it is away."""
        return list(self._or(list(data), lambda: super(ForgivingCache, self).set_many(data, timeout, version)))

    def delete_many(self, keys: Any, version: Any = None) -> None:
        """Nothing happens while it is away."""
        self._or(None, lambda: super(ForgivingCache, self).delete_many(keys, version=version))

    def clear(self) -> None:
        """Nothing happens while it is away."""
        self._or(None, super().clear)
