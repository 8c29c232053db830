"""Four-state values as two planes in Python integers: 0 is (0,0), 1 is (1,0), z is (0,1), x is (1,1)."""

from __future__ import annotations

from mevrik.design.record import Frozen

NINE = "UX01ZWLH-???????"  # the nine values by number


class Logic(Frozen, frozen=True, eq=False):
    """`width` bits in the planes `val` and `unk`. `nine`: the same as characters of the nine values, where there are nine; two values
    that differ in nothing else are equal."""

    width: int
    val: int
    unk: int = 0
    nine: str = ""

    def __eq__(self, other: object) -> bool:
        if not isinstance(other, Logic):
            return NotImplemented
        return self.width == other.width and self.val == other.val and self.unk == other.unk

    def __hash__(self) -> int:
        return hash((self.width, self.val, self.unk))

    @staticmethod
    def of_nine(width: int, codes: list[int]) -> Logic:
        """From the four planes of the nine values (IEEE 1076-2008 16.7): U X W - are x, L and H are 0 and 1."""
        p0, p1, p2, p3 = codes
        full = (1 << width) - 1
        floating = p2 & ~p0 & ~p1 & ~p3
        unk = ~p1 & full
        text = "".join(
            NINE[(p0 >> i & 1) | (p1 >> i & 1) << 1 | (p2 >> i & 1) << 2 | (p3 >> i & 1) << 3] for i in range(width - 1, -1, -1)
        )
        return Logic(width, ((p0 & p1) | (unk & ~floating)) & full, unk, text)

    @staticmethod
    def unknown(width: int) -> Logic:
        ones = (1 << width) - 1
        return Logic(width, ones, ones)

    @staticmethod
    def floating(width: int) -> Logic:
        return Logic(width, 0, (1 << width) - 1)

    @staticmethod
    def parse(text: str) -> Logic:
        """From binary digits, the left one highest."""
        val = unk = 0
        for c in text:
            val, unk = val << 1, unk << 1
            if c in "1xX":
                val |= 1
            if c in "xXzZ":
                unk |= 1
        return Logic(len(text), val, unk)

    @property
    def known(self) -> bool:
        return self.unk == 0

    def signed_value(self) -> int:
        return self.val - (1 << self.width) if self.width and self.val >> (self.width - 1) & 1 else self.val

    def bits(self) -> str:
        return "".join(
            "01zx"[(self.val >> i & 1) | 0] if not self.unk >> i & 1 else ("x" if self.val >> i & 1 else "z")
            for i in range(self.width - 1, -1, -1)
        )

    def bit(self, index: int) -> Logic:
        return Logic(1, self.val >> index & 1, self.unk >> index & 1)

    def resize(self, width: int, signed: bool) -> Logic:
        if width <= self.width:
            keep = (1 << width) - 1
            return Logic(width, self.val & keep, self.unk & keep)
        if signed and self.width:
            high = ((1 << width) - 1) & ~((1 << self.width) - 1)
            val = self.val | (high if self.val >> (self.width - 1) & 1 else 0)
            unk = self.unk | (high if self.unk >> (self.width - 1) & 1 else 0)
            return Logic(width, val, unk)
        return Logic(width, self.val, self.unk)

    def __str__(self) -> str:
        return self.bits()


def digits(value: Logic, bits: int) -> str:
    """Hexadecimal (4 bits) or octal (3 bits) digits; a digit partly unknown is X or Z, wholly unknown x or z
    (IEEE 1364-2005 17.1.1.4)."""
    out = []
    for low in range((value.width - 1) // bits * bits, -1, -bits):
        size = min(bits, value.width - low)
        ones = (1 << size) - 1
        v, u = value.val >> low & ones, value.unk >> low & ones
        if not u:
            out.append("0123456789abcdef"[v])
        elif u == ones and v == ones:
            out.append("x")
        elif u == ones and v == 0:
            out.append("z")
        else:
            out.append("X" if v & u else "Z")
    return "".join(out)


def show(value: Logic, radix: str, signed: bool = False) -> str:
    """A value in binary ("bin"), hexadecimal ("hex"), octal ("oct"), decimal ("dec", "sdec") or text ("text")."""
    if radix == "bin" or value.width == 1:
        return value.nine or value.bits()
    if value.nine and value.unk and len(set(value.nine)) == 1:
        return value.nine[0]
    if radix == "hex":
        return digits(value, 4)
    if radix == "oct":
        return digits(value, 3)
    if value.unk:
        ones = (1 << value.width) - 1
        if value.unk == ones and value.val in (0, ones):
            return "x" if value.val else "z"
        return "X" if value.val & value.unk else "Z"
    if radix == "text":
        data = value.val.to_bytes((value.width + 7) // 8, "big").lstrip(b"\0")
        return '"' + data.decode("latin-1") + '"'
    return str(value.signed_value() if signed or radix == "sdec" else value.val)
