"""Made-up photos for the demo: stone, ground and paving, drawn at random."""

import io
import math
import random

from PIL import Image, ImageDraw, ImageFilter

SIZE = (1200, 900)
GROUNDS = {
    "subgrade": ((122, 104, 82), (14, 40), (96, 140)),
    "base-lifts": ((150, 146, 138), (16, 60), (110, 190)),
    "base-proof": ((160, 156, 148), (8, 30), (125, 185)),
}
"""Colour of the ground, the sizes of its stones in pixels, and how light they are."""


def picture(stage: str, seed: int) -> bytes:
    """A JPEG as a phone would have taken it of a stage."""
    chance = random.Random(f"{stage} {seed}")  # noqa: S311 (pictures, not secrets)
    colour, sizes, lights = GROUNDS.get(stage, ((170, 150, 136), (0, 0), (0, 0)))
    image = Image.new("RGB", SIZE, colour)
    draw = ImageDraw.Draw(image)
    if sizes[1]:
        for _ in range(2600):
            _stone(draw, chance, sizes, lights)
        draw.rectangle((60, SIZE[1] - 90, 660, SIZE[1] - 62), fill=(236, 224, 160))
        for mark in range(13):
            draw.line((60 + 50 * mark, SIZE[1] - 90, 60 + 50 * mark, SIZE[1] - 62), fill=(24, 34, 43), width=3)
    else:
        for row in range(16):
            for column in range(-1, 12):
                left, top = column * 110 + (55 if row % 2 else 0), row * 58
                shade = chance.randint(-14, 14)
                fill = tuple(part + shade for part in colour)
                draw.rectangle((left + 3, top + 3, left + 107, top + 55), fill=fill)
    out = io.BytesIO()
    image.filter(ImageFilter.GaussianBlur(1.1)).save(out, "JPEG", quality=80)
    return out.getvalue()


def _stone(draw: ImageDraw.ImageDraw, chance: random.Random, sizes: tuple[int, int], lights: tuple[int, int]) -> None:
    x, y, size = chance.randint(0, SIZE[0]), chance.randint(0, SIZE[1]), chance.uniform(*sizes)
    light = chance.randint(*lights)
    turns = sorted(chance.uniform(0, 2 * math.pi) for _ in range(6))
    corners = [(x + size * math.cos(t) / 2, y + size * math.sin(t) * chance.uniform(0.3, 0.5)) for t in turns]
    draw.polygon(corners, fill=(light, light - 3, light - 10), outline=(light - 45, light - 48, light - 50))
