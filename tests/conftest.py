"""What holds for all tests: speed is measured by ./bench, so that a slow machine fails none of them; and how deep they go."""

from hypothesis import settings

from tests.depth import EVERYTHING, is_deep

# What is drawn is drawn anew with --all; ./test draws the same each time, so that what fails is what was changed.
settings.register_profile("unhurried", deadline=None, derandomize=not EVERYTHING)
settings.load_profile("unhurried")


def pytest_collection_modifyitems(config, items) -> None:
    """Leave out what is for ``./test --all``."""
    left = [] if EVERYTHING else [item for item in items if is_deep(item.nodeid)]
    if left:
        config.hook.pytest_deselected(items=left)
        items[:] = [item for item in items if not is_deep(item.nodeid)]
