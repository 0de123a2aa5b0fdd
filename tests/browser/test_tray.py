"""A heap of photos files itself: dropped twice, read, one dealt by hand, a camera put right, all filed."""

import io
import re
from datetime import UTC, datetime, timedelta

import numpy as np
from PIL import Image
from playwright.sync_api import expect

from benchmarks.filing import tag_font
from fieldtally.core.blinding.checking import check_letter
from fieldtally.core.design.plan import Checkpoint, Outcome, Plan, Treatment
from fieldtally.core.photos.camera import Shot, photo_of
from fieldtally.core.photos.scenes import leaf
from fieldtally.core.photos.tagged import Tag, with_tag
from fieldtally.core.scales import PercentScale
from tests.browser.conftest import DESK, PHONE
from tests.browser.led import begun, call, running
from tests.browser.views import barriers

READ_WITHIN = 120_000
RUST = Plan(
    title="Rust in a heap of photos",
    question="Which spray holds the rust?",
    zone="Europe/London",
    sample_word="plant",
    treatments=(Treatment("a", "Water", "untreated", 3), Treatment("b", "Nettle brew", samples=3)),
    outcomes=(Outcome("rust", "Rusted leaf", PercentScale("rust", 5), "less"),),
    checkpoints=(Checkpoint("now", "Now", 60, 60, 24 * 60),),
)


def photo(trial: str, tags: list[dict], taken: datetime, name: str, camera: str = "one") -> dict:
    """A photo as a file chooser hands it over."""
    rng = np.random.default_rng(len(name))
    scene = leaf(20, rng)
    for i, tag in enumerate(tags):
        square = f"https://tally.tarnlane.example/s/{tag['id']}"
        at = ((75.0, 70.0), (230.0, 190.0))[i]
        letter = check_letter(tag["code"], trial)
        scene = with_tag(scene, Tag(square, tag["code"], letter, at=at, turn=35.0), tag_font())
    exif = Image.Exif()
    exif[0x0110] = camera
    own = exif.get_ifd(0x8769)
    own[0x9003], own[0x9011] = f"{taken:%Y:%m:%d %H:%M:%S}", "+00:00"
    out = io.BytesIO()
    Image.fromarray(photo_of(scene, Shot(width=1400), rng)).save(out, "JPEG", quality=90, exif=exif)
    return {"name": name, "mimeType": "image/jpeg", "buffer": out.getvalue()}


def test_a_heap_of_photos_files_itself(visitor):
    lead = visitor(DESK)
    page = lead.sign_in("lead@tarnlane.example")
    trial = begun(lead, RUST)
    running(lead, trial)
    tags = call(lead, "GET", f"/api/trials/{trial}/board")["tags"]
    now = datetime.now(UTC)
    heap = [photo(trial, [tag], now - timedelta(minutes=9 - i), f"{i}.jpg") for i, tag in enumerate(tags[:3])]
    heap.append(photo(trial, tags[3:5], now - timedelta(minutes=3), "two-tags.jpg"))
    heap.append(photo(trial, [tags[5]], now - timedelta(days=500), "old-clock.jpg", "two"))
    page.goto(f"/trials/{trial}/photos")
    page.get_by_role("link", name="File a heap of photos").click()
    chooser = page.get_by_label("Choose photos")
    broken = {"name": "broken.jpg", "mimeType": "image/jpeg", "buffer": b"no picture at all"}
    chooser.set_input_files([*heap, broken])
    expect(page.get_by_text("5 of 6 sent, 1 not taken.")).to_be_visible(timeout=READ_WITHIN)
    expect(page.get_by_role("listitem").filter(has_text="broken.jpg")).to_contain_text("no picture")
    # Gone and come back: what was sent is read meanwhile, and the same heap is not taken again.
    page.goto("/")
    page.goto(f"/trials/{trial}/photos/tray")
    ready = page.get_by_role("region", name="Ready to be filed")
    by_hand = page.get_by_role("region", name="To be dealt by hand")
    expect(ready.get_by_role("heading", name="3 photos ready to be filed")).to_be_visible(timeout=READ_WITHIN)
    expect(by_hand.get_by_role("heading", name="2 photos to be dealt by hand")).to_be_visible(timeout=READ_WITHIN)
    chooser.set_input_files(heap)
    expect(page.get_by_text("5 were here before and not taken twice")).to_be_visible(timeout=READ_WITHIN)
    assert barriers(page) == []
    # Two tags in it: one of them is meant.
    by_hand.get_by_role("button", name="Photo of ?").click()
    page.get_by_role("button", name="Say what they show").click()
    deal = page.get_by_role("dialog")
    expect(deal).to_contain_text("Two tags are in the picture")
    deal.get_by_role("button", name=tags[4]["code"]).click()
    deal.get_by_role("button", name="It shows that").click()
    expect(ready.get_by_role("heading", name="4 photos ready to be filed")).to_be_visible()
    # The camera's clock was wrong; on a phone, by what its photo shows.
    page.set_viewport_size(PHONE["viewport"])
    by_hand.get_by_role("button", name=f"Photo of {tags[5]['code']}").click()
    page.get_by_role("button", name="Say what they show").click()
    expect(deal).to_contain_text("before the trial began")
    deal.get_by_label("Look").select_option("Now")
    deal.get_by_role("button", name="It shows that").click()
    ready.get_by_role("button", name="File 5 photos").click()
    expect(page.get_by_text("5 photos filed.")).to_be_visible()
    page.get_by_role("link", name="See them").click()
    for tag in (*tags[:3], *tags[4:6]):
        expect(page.get_by_role("button", name=re.compile(f"{tag['code']}, Now"))).to_be_visible()
