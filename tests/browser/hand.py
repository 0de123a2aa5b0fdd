"""A hand at a screen that counts its taps and keys, and the minutes they take a person."""

import re

from playwright.sync_api import Locator, Page

A_TAP, A_KEY = 1.6, 0.28
"""Seconds that a tap and a key take a person at a screen, with finding what to tap."""


class Hand:
    """A hand that counts what it does."""

    def __init__(self, page: Page) -> None:
        self.page, self.taps, self.keys = page, 0, 0

    def tap(self, what: Locator) -> None:
        what.click()
        self.taps += 1

    def button(self, name: str | re.Pattern[str], **more) -> None:
        self.tap(self.page.get_by_role("button", name=name, **more).first)

    def write(self, field: Locator, text: str) -> None:
        field.fill(text)
        self.taps += 1
        self.keys += len(text)

    def type(self, text: str) -> None:
        self.page.keyboard.type(text)
        self.keys += len(text)

    @property
    def minutes(self) -> float:
        return (self.taps * A_TAP + self.keys * A_KEY) / 60
