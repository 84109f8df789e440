"""From bytes to whole lines of text: encodings, ends of lines, and files that are no text.

A file is fed in blocks of any length; what comes out is UTF-8, cut at the end of a line. Nothing
is held but the line that is still open, so that a file of any size needs little memory.
"""

from __future__ import annotations

import codecs
import io
from collections.abc import Iterator
from typing import BinaryIO

from ..errors import CoreError

#: What is looked at before the layout is decided. [byte]
FIRST_LOOK = 1 << 18
_BLOCK = 1 << 22
_LONGEST_LINE = 1 << 20
_JUDGED = 1 << 16
_SIGNATURES = {
    b"\xff\xd8\xff": "a JPEG photo",
    b"\x89PNG": "a PNG picture",
    b"GIF8": "a GIF picture",
    b"%PDF": "a PDF document",
    b"PK\x03\x04": "a zip archive or a spreadsheet workbook",
    b"\x1f\x8b": "a compressed file",
    b"RIFF": "a media file",
    b"\xd0\xcf\x11\xe0": "an old office file",
}


class NotText(CoreError):
    """A file is no table of text; says what it is instead."""


class LineFeed:
    """Turns blocks of bytes into blocks of whole lines in UTF-8.

    Attributes
    ----------
    encoding : str
        As people call it; empty until enough was fed to tell.
    """

    def __init__(self) -> None:
        self.encoding = ""
        self._first = b""
        self._open = b""
        self._decoder: codecs.IncrementalDecoder | None = None
        self._old_ends = False

    def feed(self, block: bytes) -> bytes:
        """Return the lines that a block completes.

        Parameters
        ----------
        block : bytes
            The next bytes; lines and letters may be cut anywhere.

        Raises
        ------
        NotText
            If it is a picture, an archive or the like, or a line of a million letters.
        """
        if not self.encoding:
            # Encoding and ends of lines are told from a good look, however small the blocks are.
            self._first += block
            if len(self._first) < _JUDGED:
                return b""
            block = self._begin()
        return self._whole_lines(block)

    def _whole_lines(self, block: bytes) -> bytes:
        if self._decoder is not None:
            block = self._decoder.decode(block).encode()
        if self._old_ends:
            block = block.replace(b"\r", b"\n")
        cut = block.rfind(b"\n") + 1
        if not cut:
            if len(self._open) + len(block) > _LONGEST_LINE:
                raise NotText("This is no table: a line of a million letters.")
            self._open += block
            return b""
        lines = self._open + block[:cut]
        self._open = block[cut:]
        return lines

    def finish(self) -> bytes:
        """Return what is left, where the file is short or does not end with an end of line."""
        lines = self._whole_lines(self._begin()) if self._first else b""
        rest, self._open = self._open, b""
        if self._decoder is not None:
            rest += self._decoder.decode(b"", final=True).encode()
        return lines + rest

    def _begin(self) -> bytes:
        """Decide on the encoding and return what was fed until now, without its mark."""
        block, self._first = self._first, b""
        for signature, what in _SIGNATURES.items():
            if block.startswith(signature):
                raise NotText(f"This is {what}, not text. Export it as CSV text.")
        self.encoding, skipped = _encoding_of(block)
        if self.encoding == "UTF-16":
            name = "utf-16-be" if _is_big_endian(block) else "utf-16-le"
            self._decoder = codecs.getincrementaldecoder(name)("replace")
        elif self.encoding == "Windows-1252":
            self._decoder = codecs.getincrementaldecoder("cp1252")("replace")
        ends = block if self._decoder is None else block.replace(b"\x00", b"")
        self._old_ends = b"\n" not in ends[:_JUDGED] and b"\r" in ends[:_JUDGED]
        return block[skipped:]


def _encoding_of(block: bytes) -> tuple[str, int]:
    """Return the encoding and how long its mark is.

    Raises
    ------
    NotText
        If it is none.
    """
    if block.startswith(codecs.BOM_UTF8):
        return "UTF-8", 3
    if block.startswith((codecs.BOM_UTF16_LE, codecs.BOM_UTF16_BE)):
        return "UTF-16", 2
    begin = block[:_JUDGED]
    if b"\x00" in begin:
        halves = begin[0::2][:200], begin[1::2][:200]
        if any(half.count(0) > 0.8 * len(half) for half in halves if half):
            return "UTF-16", 0
        raise NotText("This is a binary file, not text. Export it as CSV text.")
    try:
        # The end of the block may cut a letter in two.
        codecs.getincrementaldecoder("utf-8")().decode(block)
    except UnicodeDecodeError:
        if sum(byte < 9 or 13 < byte < 32 for byte in begin) > 0.02 * len(begin):
            raise NotText("This is a binary file, not text. Export it as CSV text.") from None
        return "Windows-1252", 0
    return "UTF-8", 0


def _is_big_endian(block: bytes) -> bool:
    if block.startswith(codecs.BOM_UTF16_BE):
        return True
    return not block.startswith(codecs.BOM_UTF16_LE) and block[0:400:2].count(0) > block[
        1:400:2
    ].count(0)


def line_blocks(stream: BinaryIO, feed: LineFeed | None = None) -> Iterator[bytes]:
    """Yield a file as blocks of whole lines in UTF-8; the last may lack its end of line.

    Parameters
    ----------
    stream : binary stream
        At its beginning.
    feed : LineFeed, optional
        To be asked for the encoding afterwards.

    Raises
    ------
    NotText
        If it is no text.
    """
    feed = feed or LineFeed()
    while block := stream.read(_BLOCK):
        if lines := feed.feed(block):
            yield lines
    if rest := feed.finish():
        yield rest


def first_lines(stream: BinaryIO) -> tuple[list[str], str]:
    """Return the lines at the beginning of a file, and its encoding.

    Parameters
    ----------
    stream : binary stream
        At its beginning; it is taken back there.

    Raises
    ------
    NotText
        If it is empty, or no text.
    """
    feed = LineFeed()
    block = b""
    while len(block) < FIRST_LOOK and (piece := stream.read(FIRST_LOOK - len(block))):
        block += piece  # a stream may give less than is asked for
    stream.seek(0)
    if not block.strip():
        raise NotText("The file is empty.")
    text = feed.feed(block)
    if len(block) < FIRST_LOOK or not text:
        text += feed.finish()
    lines = text.decode("utf-8", errors="replace").split("\n")
    return [line.removesuffix("\r") for line in lines], feed.encoding


def as_stream(source: bytes | BinaryIO) -> BinaryIO:
    """Return bytes or a binary stream as a stream at its beginning."""
    if isinstance(source, bytes):
        return io.BytesIO(source)
    source.seek(0)
    return source
