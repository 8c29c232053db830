"""Sums and ciphers whose results anyone can check: SHA-256 in Verilog, AES-128 in SystemVerilog, CRC and MD5 in VHDL. What the
published examples (FIPS 180-4, FIPS 197, RFC 1321) don't give comes from Python's own library."""

from __future__ import annotations

import hashlib
import zlib
from pathlib import Path

import pytest

from tests.conftest import mevrik

HERE = Path(__file__).parent / "digests"
LONG = b"abcdbcdecdefdefgefghfghighijhijkijkljklmklmnlmnomnopnopq"
WANTED = {
    # the fractions of the cube roots of the first and the 64th prime, 2 and 311
    "sha256_tb": [
        f"{int((2 ** (1 / 3) - 1) * 2**32):x} {int((311 ** (1 / 3) - 6) * 2**32):x}",
        f"abc: {hashlib.sha256(b'abc').hexdigest()}",
        f"Tarnwick Lock: {hashlib.sha256(b'Tarnwick Lock').hexdigest()}",
        hashlib.sha256(LONG).hexdigest(),
    ],
    # FIPS 197: 5.1.1 and 4.2 (57 * 83 = c1), appendix B, appendix C.1 both ways
    "aes_tb": [
        "63 ed 53 c1",
        "3925841d02dc09fbdc118597196a0b32",
        "69c4e0d86a7b0430d8cdb78070b4c55a",
        "00112233445566778899aabbccddeeff 375",
    ],
    # the check values of both CRCs are those of the digits 1 to 9
    "crc_tb": [
        f"crc32 {zlib.crc32(b'123456789'):08x}",
        "crc32 of nothing 00000000",
        "crc16 29B1",
        f"md5 {hashlib.md5(b'').hexdigest()}",
        f"md5 {hashlib.md5(b'abc').hexdigest()}",
        f"md5 {hashlib.md5(b'1234567890' * 8).hexdigest()}",
    ],
}


@pytest.mark.parametrize("top", WANTED)
@pytest.mark.parametrize("order", [[], ["--order", "shuffle", "--seed", 11]])
def test_published_results(top: str, order: list[object]) -> None:
    done = mevrik("run", HERE, "--top", top, *order)
    assert done.out.splitlines() == WANTED[top], done.err
    assert done.err == ""


def test_clean_designs_have_no_findings() -> None:
    done = mevrik("lint", HERE)
    assert (done.out + done.err).strip() == ""
