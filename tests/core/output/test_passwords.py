"""Passwords that readers of several makes take alike: RFC 4013, whose own examples (section 3) are among these."""

from __future__ import annotations

import io

import pikepdf
import pypdfium2 as pdfium
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from pdfminer._saslprep import saslprep
from pdfminer.pdfdocument import PDFDocument
from pdfminer.pdfparser import PDFParser

from skalto.core.output.pdf.passwords import against_password


@pytest.mark.parametrize(
    ("word", "told"),
    [
        ("", ""),
        ("Ebba 2026!", ""),
        ("größe-Ø", ""),
        ("I\u00adX", "plain letters"),  # RFC 4013, 3, 1: a soft hyphen goes
        ("USER", ""),  # 3
        ("\u00aa", "plain letters"),  # 4: becomes a
        ("\u2168", "plain letters"),  # 5: becomes IX
        ("\u0007", "U+0007"),  # 6: prohibited
        ("\u0627\u0031", "one of them"),  # 7: bidirectional check
        ("\u0627\u0628", ""),
        ("a\u00a0b", "U+00A0"),
        ("o\u0308", "marks of their own"),
        ("\ue000", "U+E000"),
        ("\ud800", "U+D800"),
        ("ä" * 63, ""),
        ("ä" * 64, "127 bytes"),
    ],
)
def test_examples(word: str, told: str) -> None:
    why = against_password(word)
    assert (told in why) if told else why == ""


@settings(max_examples=300, deadline=None)
@given(st.text(min_size=1, max_size=12))
def test_what_passes_is_what_the_rule_makes_of_it(word: str) -> None:
    """Against another implementation of the rule."""
    try:
        prepared = saslprep(word)
    except Exception:
        assert against_password(word)
        return
    assert (against_password(word) == "") is (prepared == word)


@pytest.mark.parametrize("word", ["Ebba 2026!", "größe-Ø", "\u0627\u0628", "ä" * 63])
def test_it_opens_in_every_reader(word: str) -> None:
    pdf, out = pikepdf.new(), io.BytesIO()
    pdf.add_blank_page()
    pdf.save(out, encryption=pikepdf.Encryption(owner=word, user=word, R=6))
    assert len(pdfium.PdfDocument(out.getvalue(), password=word)) == 1
    PDFDocument(PDFParser(out), password=word)
    assert len(pikepdf.open(out, password=word).pages) == 1
