"""What a PDF says of itself as a whole: how it wants to be printed, metadata, bookmarks, the archive's marks, passwords."""

from __future__ import annotations

import io
from collections.abc import Sequence
from dataclasses import dataclass
from datetime import UTC
from functools import cache

import pikepdf
from pikepdf import Array, Dictionary, Name, OutlineItem, Pdf, String
from PIL import ImageCms

from skalto import __version__
from skalto.core.errors import InputError
from skalto.core.output.pdf.metadata import Metadata, Passwords
from skalto.core.recipes import Recipe


@dataclass(frozen=True)
class Finished:
    """The bytes of a file; where what it can be measured by had to be left out of it, its *twin* that still has it."""

    data: bytes
    twin: bytes | None = None


def _viewing(pdf: Pdf, archive: bool) -> None:
    """Print as it is, paper by the page's size, title in the window (12.2; Enforce is ISO 32000-2's)."""
    preferences = Dictionary()
    preferences.PrintScaling = Name("/None")
    preferences.PickTrayByPDFSize = True
    if not archive:
        # unknown to ISO 32000-1, on which PDF/A-2 stands
        preferences.Enforce = Array([Name("/PrintScaling")])
    preferences.DisplayDocTitle = True
    pdf.Root.ViewerPreferences = preferences
    pdf.Root.Lang = String("en")


def _metadata(pdf: Pdf, metadata: Metadata, archive: bool) -> None:
    """The information dictionary (14.3.3) and the XMP packet (14.3.2), which agree."""
    stamp = metadata.created.astimezone(UTC).strftime("D:%Y%m%d%H%M%SZ")
    creator = f"Skalto {__version__}"
    pdf.docinfo["/Title"] = metadata.title
    for key, value in (("/Author", metadata.author), ("/Subject", metadata.subject), ("/Keywords", metadata.keywords)):
        if value:
            pdf.docinfo[key] = value
    pdf.docinfo["/Creator"] = creator
    pdf.docinfo["/Producer"] = creator
    pdf.docinfo["/CreationDate"] = stamp
    pdf.docinfo["/ModDate"] = stamp
    with pdf.open_metadata(set_pikepdf_as_editor=False, update_docinfo=False) as xmp:
        xmp["dc:title"] = metadata.title
        if metadata.author:
            xmp["dc:creator"] = [metadata.author]
        if metadata.subject:
            xmp["dc:description"] = metadata.subject
        if metadata.keywords:
            xmp["pdf:Keywords"] = metadata.keywords
        xmp["xmp:CreatorTool"] = creator
        xmp["pdf:Producer"] = creator
        xmp["xmp:CreateDate"] = xmp["xmp:ModifyDate"] = metadata.created.astimezone(UTC).strftime("%Y-%m-%dT%H:%M:%SZ")
        if archive:
            xmp["pdfaid:part"] = "2"
            xmp["pdfaid:conformance"] = "B"


@cache
def _srgb() -> bytes:
    """An ICC profile of sRGB (IEC 61966-2-1), as littlecms makes it; its date is set, so that the same file is the same."""
    profile = bytearray(ImageCms.ImageCmsProfile(ImageCms.createProfile("sRGB")).tobytes())
    profile[24:36] = bytes((7, 208, 0, 1, 0, 1, 0, 0, 0, 0, 0, 0))
    profile[84:100] = bytes(16)
    return bytes(profile)


def _archive(pdf: Pdf) -> None:
    """What the colours of the page mean (14.11.5; ISO 19005-2, 6.2.3, from memory)."""
    profile = pdf.make_stream(_srgb())
    profile.N = 3
    intent = Dictionary(
        Type=Name.OutputIntent, S=Name.GTS_PDFA1, OutputConditionIdentifier=String("sRGB"), Info=String("sRGB IEC61966-2.1"),
        RegistryName=String("http://www.color.org"), DestOutputProfile=pdf.make_indirect(profile),
    )  # fmt: skip
    pdf.Root.OutputIntents = Array([intent])


def _bookmarks(pdf: Pdf, names: Sequence[str]) -> None:
    """A bookmark and a label for each page (12.3.3, 12.4.2)."""
    with pdf.open_outline() as outline:
        for number, name in enumerate(names):
            outline.root.append(OutlineItem(name, number))
    rows = Array()
    for number, name in enumerate(names):
        rows.append(number)
        rows.append(Dictionary(P=String(name)))
    pdf.Root.PageLabels = Dictionary(Nums=rows)


def _encryption(passwords: Passwords) -> pikepdf.Encryption:
    """AES with 256 bits (ISO 32000-2, 7.6.4.4, revision 6). Printing stays free; changing wants the password."""
    allow = pikepdf.Permissions(
        extract=True, accessibility=True, print_lowres=True, print_highres=True,
        modify_annotation=not passwords.change, modify_form=not passwords.change, modify_other=not passwords.change,
        modify_assembly=not passwords.change,
    )  # fmt: skip
    return pikepdf.Encryption(owner=passwords.change or passwords.open, user=passwords.open, R=6, aes=True, allow=allow)


def finished(
    pdf: Pdf, metadata: Metadata, recipe: Recipe, names: Sequence[str], passwords: Passwords | None = None
) -> Finished:
    """A file whose pages are there: what it says of itself is written last. An archive has no private data of ours
    (PieceInfo), and viewports are left out where the recipe says so.

    :param names: of its pages, for bookmarks and page labels where there are several.
    :raises InputError: for an archive file with a password.
    """
    secret = passwords is not None and bool(passwords.open or passwords.change)
    archive = recipe.file == "archive"
    if archive and secret:
        raise InputError("An archive file may not be locked (ISO 19005-2): leave the passwords empty, or choose a plain file.")
    _viewing(pdf, archive)
    _metadata(pdf, metadata, archive)
    if archive:
        _archive(pdf)
    if len(names) > 1:
        _bookmarks(pdf, names)
    small = recipe.file == "smallest"
    mode = pikepdf.ObjectStreamMode.generate if small else pikepdf.ObjectStreamMode.preserve
    out = io.BytesIO()
    twin = None
    if archive or not recipe.viewports:
        pdf.save(out, deterministic_id=True, min_version="1.7")
        twin = out.getvalue()
        out = io.BytesIO()
        for page in pdf.pages:
            for key in ("/PieceInfo", *(() if recipe.viewports else ("/VP",))):
                if key in page and (archive or key == "/VP"):
                    del page[key]
    if secret:
        assert passwords is not None
        pdf.save(out, min_version="2.0", encryption=_encryption(passwords), object_stream_mode=mode)
    else:
        pdf.save(out, deterministic_id=True, min_version="1.7", object_stream_mode=mode)
    return Finished(out.getvalue(), twin)
