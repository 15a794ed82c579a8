import pytest

from sketchloom.core.errors import ArgumentError
from sketchloom.core.units import parse_area, parse_length


@pytest.mark.parametrize(
    ("text", "mm"),
    [("180mm", 180.0), ("7in", 177.8), ("1.5 cm", 15.0), ("19.5in - 1/2in", 482.6), ("1,5mm", 1.5), ('2"', 50.8)],
)
def test_lengths_and_sums_are_read(text, mm):
    # 1 in = 25.4 mm exactly (international yard and pound agreement, 1959)
    assert parse_length(text) == pytest.approx(mm)


@pytest.mark.parametrize("text", ["", "abc", "5", "5 ft", "1/0in", "2mm2", "nan mm", "5mm 3mm"])
def test_what_is_no_length_is_refused_in_one_sentence(text):
    with pytest.raises(ArgumentError) as error:
        parse_length(text)
    assert "\n" not in str(error.value)


def test_areas_are_read():
    assert parse_area("1in2") == pytest.approx(645.16)
    assert parse_area("0.5 mm²") == 0.5
