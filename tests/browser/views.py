"""Every view of the application, who sees it, and where it is in the demo."""

from __future__ import annotations

from collections.abc import Callable, Iterator

from axe_playwright_python.sync_playwright import Axe
from playwright.sync_api import Page

from tests.browser.conftest import Visitor, until

STILL = """document.getAnimations().every(
  (one) => one.playState !== "running" || one.effect.getTiming().iterations === Infinity
)"""
# Nothing is asked of the server, and a page that had a while to itself asked for nothing more.
ANSWERED = """new Promise((then) => setTimeout(() => setTimeout(() => then(
  !window.asked || (window.asked.open === 0 && performance.now() - window.asked.last > 300)
))))"""
LEAST = 43.5
"""A finger needs 44 px; browsers round."""

# What a finger may press, but for links in a sentence: what surrounds the line keeps others away from those.
SMALL = """(least) => {
  const seen = (e) => e.checkVisibility({ visibilityProperty: true }) && !e.closest('[inert], [aria-hidden=true]');
  const alone = (e) => {
    if (e.tagName !== 'A' || getComputedStyle(e).display !== 'inline') return true;
    const around = e.closest('p, li, dd, td, h1, h2, h3, label, figcaption') ?? e.parentElement;
    return around.textContent.trim() === e.textContent.trim();
  };
  const hit = (e) => (['radio', 'checkbox', 'file'].includes(e.type) ? (e.closest('label') ?? e) : e);
  return [...document.querySelectorAll('a[href], button, input:not([type=hidden]), select, textarea, summary')]
    .filter((e) => seen(e) && alone(e) && !e.matches('.skip'))
    .map(hit)
    .filter((e) => {
      const { width, height } = e.getBoundingClientRect();
      return width > 0 && (height < least || width < least);
    })
    .map((e) => {
      const { width, height } = e.getBoundingClientRect();
      return `${Math.round(width)} x ${Math.round(height)}: ${e.outerHTML.replace(/\\s+/g, ' ').slice(0, 110)}`;
    });
}"""
# What sticks out at the side, though it may be cut there; what scrolls by itself does not.
SIDEWAYS = """() => {
  const wide = document.documentElement.scrollWidth - document.documentElement.clientWidth;
  if (wide <= 0) return [];
  const at = document.documentElement.clientWidth;
  return [...document.querySelectorAll('body *')]
    .filter((e) => e.getBoundingClientRect().right > at + 0.5 && !e.closest('svg *'))
    .slice(0, 3).map((e) => `${wide} px: ${e.outerHTML.replace(/\\s+/g, ' ').slice(0, 110)}`);
}"""


# What a program writes where it has no words.
WORDLESS = """() => {
  const named = [...document.querySelectorAll('[aria-label], [placeholder], [title], label')];
  const texts = [document.body.innerText, ...named.flatMap((e) => [
    e.getAttribute('aria-label'), e.getAttribute('placeholder'), e.getAttribute('title'), e.textContent])];
  return texts.filter((t) => /\\[object |\\bNaN\\b|\\bundefined\\b/.test(t ?? ''))
    .map((t) => `wordless: ${t.replace(/\\s+/g, ' ').match(/.{0,40}(\\[object |NaN|undefined).{0,20}/)[0]}`).slice(0, 3);
}"""


def barriers(page: Page, *rules: str) -> list[str]:
    """What stands in somebody's way, by all rules or by those named."""
    asked = {"resultTypes": ["violations"], **({"runOnly": {"type": "rule", "values": list(rules)}} if rules else {})}
    found = Axe().run(page, options=asked).response["violations"]
    return [f"{one['id']}: {one['nodes'][0]['html'][:140]}" for one in found]


TITLES = {
    "dahlias": "Cut dahlias in the vase",
    "peas": "Soaking peas before sowing",
    "pens": "Plant-label pens",
    "gherkins": "Crunch of bottled gherkins",
    "marigolds": "Colour of dried marigolds",
    "twine": "Garden twine through a season",
}
VIEWS = {
    "sign-in": (None, "/sign-in"),
    "shelf": ("lead", "/"),
    "plan": ("lead", "pens/plan"),
    "plan-treatments": ("lead", "pens/plan/treatments"),
    "plan-equal": ("lead", "pens/plan/equal"),
    "plan-outcomes": ("lead", "pens/plan/outcomes"),
    "plan-layout": ("lead", "pens/plan/layout"),
    "plan-looks": ("lead", "pens/plan/looks"),
    "plan-fairness": ("lead", "pens/plan/fairness"),
    "plan-dry-run": ("lead", "pens/plan/dry-run"),
    "plan-sealed": ("lead", "dahlias/plan/looks"),
    "board": ("scorer", "dahlias"),
    "today": ("scorer", "/today"),
    "prepare": ("preparer", "dahlias/prepare"),
    "mix": ("preparer", "dahlias/prepare/mix"),
    "tags": ("preparer", "dahlias/prepare/tags"),
    "start": ("preparer", "dahlias/prepare/start"),
    "doses": ("lead", "dahlias/plan/doses"),
    "agreement": ("lead", "dahlias/agreement"),
    "round": ("scorer", "dahlias/rounds/day6"),
    "key": ("lead", "dahlias/verdict"),
    "log": ("lead", "dahlias/log"),
    "people": ("lead", "dahlias/people"),
    "photos": ("lead", "dahlias/photos"),
    "photos-open": ("scorer", "peas/photos"),
    "gauge": ("scorer", "marigolds/gauge/day14/shade"),
    "training": ("lead", "marigolds/training"),
    "together": ("scorer", "marigolds/together"),
    "verdict": ("lead", "peas/verdict"),
    "board-open": ("lead", "peas"),
    "share": ("lead", "peas/share"),
    "mailbox": (None, "/mailbox"),
    "bench": ("lead", "/bench"),
    "methods compared": ("lead", "/methods"),
    "bring in": ("lead", "/bring"),
    "known": ("lead", "/known"),
    "account": ("lead", "/account"),
    "place": ("lead", "/place"),
    "practice": ("lead", "/practice"),
    "tasting": ("lead", "/tasting"),
    "seat": (None, "/seat"),
    "panels": ("lead", "gherkins/panels"),
    "verdict-with-panels": ("lead", "gherkins/verdict"),
    "verdict of twine": ("lead", "twine/verdict"),
    "panel": ("lead", "gherkins/panels/first"),
    "guide": ("lead", "/guide"),
    "guide-page": ("lead", "/guide/does-it-work"),
    "not there": ("lead", "/nowhere"),
    "forgotten": (None, "/forgotten"),
    "join": (None, "/join"),
}


def address(one: Visitor, path: str) -> str:
    """Where a view of the demo is: ``dahlias/log`` is that trial's log."""
    if path.startswith("/"):
        return path
    short, *rest = path.split("/")
    trial = one.trial(TITLES[short])
    if rest[-1:] == ["first"]:
        panels = one.context.request.get(f"/api/trials/{trial}/panels").json()["panels"]
        rest[-1] = panels[0]["id"]
    return "/".join([f"/trials/{trial}", *rest])


def shown(page: Page) -> None:
    """Wait until a view has all it shows, and has come to rest, but for what moves as long as it is there."""
    page.wait_for_load_state("networkidle")
    until(page, ANSWERED)
    until(page, STILL)


def drawn(page: Page) -> None:
    """Wait until what was done is on the screen: two frames later, and at rest."""
    page.evaluate("new Promise((then) => requestAnimationFrame(() => requestAnimationFrame(then)))")
    until(page, STILL)


def all_views(visitor: Callable[..., Visitor], screen: dict[str, object]) -> Iterator[tuple[str, Page]]:
    """Each view in turn, as whoever sees it."""
    sessions: dict[str | None, Visitor] = {}
    for name, (role, path) in VIEWS.items():
        if role not in sessions:
            sessions[role] = visitor(screen)
            if role:
                sessions[role].sign_in(f"{role}@tarnlane.example")
        one = sessions[role]
        one.page.goto(address(one, path))
        shown(one.page)
        yield name, one.page


def no_barrier(page: Page) -> None:
    """A dialog lies open, and nobody is kept from it."""
    page.get_by_role("dialog").get_by_role("heading").first.wait_for()
    assert barriers(page) == []
