import itertools

import pytest

from zumbert.drawing.style import AREAS, COLOUR_ROLES, LINES, TEXTS, colour, text_width


def luminance(hex_colour):
    parts = [int(hex_colour[i : i + 2], 16) / 255 for i in (1, 3, 5)]
    linear = [v / 12.92 if v <= 0.03928 else ((v + 0.055) / 1.055) ** 2.4 for v in parts]
    return 0.2126 * linear[0] + 0.7152 * linear[1] + 0.0722 * linear[2]


def contrast(a, b):
    x, y = sorted((luminance(a), luminance(b)), reverse=True)
    return (x + 0.05) / (y + 0.05)


def test_every_role_names_a_colour():
    used = {s.colour for s in (*LINES.values(), *AREAS.values(), *TEXTS.values())}
    assert used <= set(COLOUR_ROLES)


@pytest.mark.parametrize("theme", ["light", "dark"])
def test_texts_can_be_read_on_paper_chrome_and_ground(theme):
    grounds = [colour(r, theme) for r in ("paper", "chrome", "ground-fill")]
    for (role, text), ground in itertools.product(TEXTS.items(), grounds):
        assert contrast(colour(text.colour, theme), ground) >= 4.5, (role, ground)
    fill, paper, alpha = colour("legal-fill", theme), colour("paper", theme), AREAS["legal"].alpha
    seen = [
        round(alpha * int(fill[i : i + 2], 16) + (1 - alpha) * int(paper[i : i + 2], 16))
        for i in (1, 3, 5)
    ]
    assert contrast(colour("legal", theme), "#{:02x}{:02x}{:02x}".format(*seen)) >= 4.5


def test_nothing_is_set_smaller_than_eleven():
    assert min(t.size for t in TEXTS.values()) >= 11


def test_widths_come_from_the_face():
    # figures are tabular, 600 thousandths each
    assert text_width("0123456789", "row") == pytest.approx(10 * 0.6 * 11.5)
    assert text_width("iii", "row") < text_width("MMM", "row")
