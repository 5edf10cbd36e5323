"""Fonts and pictures of a PDF (ISO 32000-1, 9.6 to 9.10 and 8.9): subsets of the shipped faces, embedded and searchable."""

from __future__ import annotations

import io
import zlib
from decimal import Decimal

import numpy as np
import pikepdf
from fontTools import subset
from fontTools.ttLib import TTFont
from numpy.typing import NDArray
from pikepdf import Array, Dictionary, Name, Pdf, String
from PIL import Image

from skalto.core.artwork import Raster
from skalto.core.lettering import FACES, NO_GLYPH, GlyphRun
from skalto.core.output.pdf.ink import Ink
from skalto.core.output.pdf.layers import SharedLayers
from skalto.core.output.pdf.originals import placed
from skalto.core.pages.page import PlacedView
from skalto.core.quantities import MM_PER_INCH
from skalto.core.recipes import Recipe

COMPRESSION, SMALLEST = 4, 9
Used = dict[int, dict[int, str]]
"""Glyphs by face: each with the characters that it stands for."""

_UNUSED = ("GSUB", "GPOS", "kern", "FFTM", "GDEF")
"""Tables that a reader of the file does not need: text is laid out already."""


class SharedFonts:
    """The fonts of a file: which glyphs are used, and for which characters each stands."""

    def __init__(self, pdf: Pdf) -> None:
        self._pdf = pdf
        self._used: dict[int, dict[int, str]] = {}
        self._entries: dict[int, pikepdf.Object] = {}
        self.missing: set[str] = set()
        """Characters that no shipped face has."""

    def use(self, run: GlyphRun) -> pikepdf.Object:
        """Note the glyphs of a run; the font's dictionary, still to be filled by :meth:`embed`."""
        used = self._used.setdefault(run.face, {})
        for glyph, characters in zip(run.glyphs, run.characters, strict=True):
            if glyph == NO_GLYPH:
                self.missing.update(characters)
            used.setdefault(glyph, characters)
        return self.entry(run.face)

    def used(self) -> Used:
        """Which glyphs of each face are used, and for which characters each stands."""
        return {face: dict(glyphs) for face, glyphs in self._used.items()}

    def add(self, used: Used) -> None:
        """Note the glyphs of another file whose pages go into this one."""
        for face, glyphs in used.items():
            self._used.setdefault(face, {}).update(glyphs)
            self.entry(face)

    def entry(self, face: int) -> pikepdf.Object:
        """The font's dictionary, still to be filled by :meth:`embed`."""
        if face not in self._entries:
            self._entries[face] = self._pdf.make_indirect(Dictionary(Type=Name.Font))
        return self._entries[face]

    def embed(self) -> None:
        """Write a subset of each used face: a composite font with glyphs by number (9.7) and a ToUnicode map (9.10.3)."""
        for face, used in self._used.items():
            self._embed(face, used)

    def _embed(self, face: int, used: dict[int, str]) -> None:
        facts = FACES[face]
        # closed at once: a file left to the collector of garbage warns whoever listens at that moment
        with TTFont(facts.path, lazy=True) as font:
            options = subset.Options()
            options.retain_gids, options.notdef_outline, options.hinting = True, True, False
            options.layout_features, options.name_IDs, options.drop_tables = [], [], [*options.drop_tables, *_UNUSED]
            options.glyph_names = False
            cutter = subset.Subsetter(options)
            cutter.populate(gids=sorted(used))
            widths = {glyph: font["hmtx"][font.getGlyphName(glyph)][0] for glyph in sorted(used)}
            scale = 1000 / facts.units
            ascent, descent = font["hhea"].ascent, font["hhea"].descent
            head = font["head"]
            box = [head.xMin, head.yMin, head.xMax, head.yMax]
            cutter.subset(font)
            out = io.BytesIO()
            font["head"].modified = font["head"].created
            font.recalcTimestamp = False
            font.save(out, reorderTables=True)
        name = Name("/" + _letters(face, used) + "+" + facts.name.replace(" ", ""))
        program = self._pdf.make_stream(b"")
        program.write(zlib.compress(out.getvalue(), COMPRESSION), filter=Name.FlateDecode)
        program.Length1 = len(out.getvalue())
        descriptor = Dictionary(
            Type=Name.FontDescriptor, FontName=name, Flags=4, ItalicAngle=0, StemV=80,
            Ascent=round(ascent * scale), Descent=round(descent * scale), CapHeight=round(facts.capitals * scale),
            FontBBox=Array([round(v * scale) for v in box]), FontFile2=program,
        )  # fmt: skip
        rows = Array()
        for glyph, width in widths.items():
            rows.append(glyph)
            rows.append(Array([round(width * scale, 3)]))
        descendant = Dictionary(
            Type=Name.Font, Subtype=Name.CIDFontType2, BaseFont=name, FontDescriptor=self._pdf.make_indirect(descriptor),
            CIDSystemInfo=Dictionary(Registry=String("Skalto"), Ordering=String("Glyphs"), Supplement=0),
            CIDToGIDMap=Name.Identity, DW=0, W=rows,
        )  # fmt: skip
        entry = self._entries[face]
        entry.Subtype = Name.Type0
        entry.BaseFont = name
        entry.Encoding = Name("/Identity-H")
        entry.DescendantFonts = Array([self._pdf.make_indirect(descendant)])
        entry.ToUnicode = self._pdf.make_stream(_to_unicode(used))


def _letters(face: int, used: dict[int, str]) -> str:
    """Six capitals that name a subset (9.6.4), the same for the same glyphs."""
    number = zlib.crc32(repr((face, sorted(used))).encode())
    letters = []
    for _ in range(6):
        number, rest = divmod(number, 26)
        letters.append(chr(65 + rest))
    return "".join(letters)


def _to_unicode(used: dict[int, str]) -> bytes:
    rows = [f"<{glyph:04X}> <{text.encode('utf-16-be').hex().upper()}>" for glyph, text in sorted(used.items()) if text]
    parts = [
        "/CIDInit /ProcSet findresource begin\n12 dict begin\nbegincmap\n"
        "/CIDSystemInfo <</Registry (Skalto) /Ordering (Unicode) /Supplement 0>> def\n"
        "/CMapName /Skalto-Unicode def\n/CMapType 2 def\n1 begincodespacerange\n<0000> <FFFF>\nendcodespacerange\n"
    ]
    # a block holds at most a hundred rows (9.10.3, from memory)
    for at in range(0, len(rows), 100):
        block = rows[at : at + 100]
        parts.append(f"{len(block)} beginbfchar\n" + "\n".join(block) + "\nendbfchar\n")
    parts.append("endcmap\nCMapName currentdict /CMap defineresource pop\nend\nend\n")
    return "".join(parts).encode()


class PageResources:
    """The names by which a page's content calls fonts, pictures and layers, and the pictures as a recipe wants them."""

    def __init__(self, pdf: Pdf, fonts: SharedFonts, layers: SharedLayers, recipe: Recipe, ink: Ink) -> None:
        self._pdf = pdf
        self._fonts = fonts
        self._layers = layers
        self._recipe = recipe
        self._ink = ink
        self._layer_names: dict[str, str] = {}
        self._font_entries: dict[str, pikepdf.Object] = {}
        self._pictures: dict[str, pikepdf.Object] = {}
        self._states: dict[str, Dictionary] = {}
        self._originals: dict[str, pikepdf.Object] = {}

    def beginning(self, crossing: str) -> bytes:
        """What a page begins with: colours that lie over one another are multiplied, if so wished (11.3.5.2)."""
        if crossing != "blend":
            return b""
        self._states["G0"] = Dictionary(Type=Name.ExtGState, BM=Name.Multiply)
        return b"/G0 gs\n"

    def font(self, run: GlyphRun) -> str:
        name = f"F{run.face}"
        self._font_entries[name] = self._fonts.use(run)
        return name

    def layer(self, name: str) -> str:
        if not self._recipe.writes_layers:
            return ""
        return self._layer_names.setdefault(name, f"L{len(self._layer_names)}")

    def opacity(self, value: float) -> str:
        """The graphics state that strokes and fills with an opacity (8.4.5), 0 to 1."""
        name = f"A{round(value * 1000)}"
        if name not in self._states:
            self._states[name] = Dictionary(
                Type=Name.ExtGState, CA=Decimal(str(round(value, 3))), ca=Decimal(str(round(value, 3)))
            )
        return name

    def original(self, view: PlacedView, factor: float) -> bytes:
        """The operators that place a page of another PDF as it is, at *factor* units a mm."""
        name = f"O{len(self._originals)}"
        operators, self._originals[name] = placed(self._pdf, view, name, factor, self._layers, self._recipe)
        return operators

    def picture(self, item: Raster) -> str:
        """A picture with its cover as a soft mask (11.6.5.3), at no more than the recipe's resolution."""
        pixels = item.pixels
        size = _allowed(item, self._recipe.picture_dpi)
        cover = Image.fromarray(np.ascontiguousarray(pixels[..., 3]), "L")
        colours = Image.fromarray(np.ascontiguousarray(pixels[..., :3]), "RGB")
        if size != colours.size:
            cover, colours = (part.resize(size, Image.Resampling.LANCZOS) for part in (cover, colours))
        entry = self._image(self._ink.pixels(np.asarray(colours)), lossy=self._recipe.compression == "jpeg")
        if np.asarray(cover).min() < 255:
            entry.SMask = self._image(cover, lossy=False)
        name = f"P{len(self._pictures)}"
        self._pictures[name] = entry
        return name

    def flat_picture(self, pixels: NDArray[np.uint8], width: float, height: float) -> pikepdf.Object:
        """A picture (rows, columns, 3) that covers all of its place, *width* by *height* mm, at no more than the recipe's
        resolution; not among those that the page's own content draws."""
        picture = Image.fromarray(np.ascontiguousarray(pixels), "RGB")
        most = (max(1, round(v / MM_PER_INCH * self._recipe.picture_dpi)) for v in (width, height))
        size = tuple(min(a, b) for a, b in zip(picture.size, most, strict=True))
        if size != picture.size:
            picture = picture.resize((size[0], size[1]), Image.Resampling.LANCZOS)
        return self._image(self._ink.pixels(np.asarray(picture)), lossy=self._recipe.compression == "jpeg")

    def _image(self, picture: Image.Image, lossy: bool) -> pikepdf.Object:
        """A picture's dictionary (8.9.5): three channels, one, or one bit; without loss (7.4.4) or as JPEG (7.4.8)."""
        space, bits = {"RGB": (Name.DeviceRGB, 8), "L": (Name.DeviceGray, 8), "1": (Name.DeviceGray, 1)}[picture.mode]
        stream = self._pdf.make_stream(b"")
        if lossy and bits == 8:
            out = io.BytesIO()
            picture.save(out, "JPEG", quality=self._recipe.quality, subsampling=0)
            stream.write(out.getvalue(), filter=Name.DCTDecode)
        else:
            level = SMALLEST if self._recipe.file == "smallest" else COMPRESSION
            stream.write(zlib.compress(picture.tobytes(), level), filter=Name.FlateDecode)
        stream.Type, stream.Subtype = Name.XObject, Name.Image
        stream.Width, stream.Height = picture.size
        stream.BitsPerComponent, stream.ColorSpace = bits, space
        return stream

    def dictionary(self) -> Dictionary:
        """The page's resource dictionary (7.8.3)."""
        found = Dictionary()
        if self._font_entries:
            found.Font = Dictionary({f"/{name}": entry for name, entry in self._font_entries.items()})
        if self._pictures or self._originals:
            named_ = {**self._pictures, **self._originals}
            found.XObject = Dictionary({f"/{name}": entry for name, entry in named_.items()})
        if self._states:
            found.ExtGState = Dictionary({f"/{name}": entry for name, entry in self._states.items()})
        if self._layer_names:
            found.Properties = Dictionary({f"/{short}": self._layers.group(name) for name, short in self._layer_names.items()})
        return found


def _allowed(item: Raster, dpi: int) -> tuple[int, int]:
    """Columns and rows that a picture keeps at a resolution on paper: as many as it has, or fewer."""
    rows, columns = item.pixels.shape[:2]
    across, upward = (float(np.linalg.norm(side)) / MM_PER_INCH * dpi for side in (item.across, item.upward))
    return max(1, min(columns, round(across))), max(1, min(rows, round(upward)))
