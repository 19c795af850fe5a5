"""Files made to hurt: rig files changed at any place, photographs that are programs, JSON without a bottom."""

import io
import json
import random

import pytest
from PIL import Image

from rellux.core.cells import neutral, plain
from rellux.server.rigs.models import Rig
from rellux.server.wiring.models import Photo
from tests.examples import cases
from tests.server.rigs.test_transfer import bring_in, changed, contents, export, with_rig
from tests.server.workshop import load_demo

PAGES = (
    "",
    "/book",
    "/parts.pdf",
    "/wiring",
    "/wiring/faults",
    "/wiring/schedule.csv",
    "/setup",
    "/runs",
    "/tuning",
    "/calibration",
    "/questions",
    "/export",
)
HOSTILE = (
    None, True, -1, 0, 10**400, 2**63, 1e308, "", "x" * 5000, "<script>alert(1)</script>", "../..", "=1+1", "\x00", [], {},
    [[]], {"a": {}}, "2026-13-45T99:00:00Z", "9999-12-31T23:59:59-14:00", "relay", "NaN",
)  # fmt: skip


SMALLEST = []


@pytest.fixture
def demo(api):
    """The smallest rig of the demo, as a file; the rest of the workshop stays."""
    load_demo()
    if not SMALLEST:
        slugs = Rig.objects.filter(effect="heats").values_list("slug", flat=True)
        SMALLEST.append(min((export(api, slug) for slug in slugs), key=len))
    return SMALLEST[0]


def leaves(value, path=()):
    yield path
    inner = value.items() if isinstance(value, dict) else enumerate(value) if isinstance(value, list) else ()
    for key, v in inner:
        yield from leaves(v, (*path, key))


def spoilt(rig, chance):
    """The rig with one place of it replaced, dropped or doubled."""
    rig = json.loads(json.dumps(rig))
    by_kind = {}
    for path in leaves(rig):
        by_kind.setdefault(tuple("#" if isinstance(k, int) else k for k in path), []).append(path)
    path = chance.choice(by_kind[chance.choice(sorted(k for k in by_kind if k))])
    holder = rig
    for key in path[:-1]:
        holder = holder[key]
    how = chance.random()
    if how < 0.1:
        del holder[path[-1]]
    elif how < 0.2 and isinstance(holder, list):
        holder.append(holder[path[-1]])
    else:
        holder[path[-1]] = chance.choice(HOSTILE)
    return rig, path


def all_pages(api, slug):
    """Status of every page's data. What streams is drained."""
    found = {}
    for page in PAGES:
        response = api.client.get(f"/api/v1/rigs/{slug}{page}")
        if response.streaming:
            b"".join(response.streaming_content)
        found[page] = response.status_code
    return found


def test_a_file_changed_anywhere_is_refused_in_words_or_opens_on_every_page(api, demo):
    rig, before = json.loads(contents(demo)["rig.json"]), Rig.objects.count()
    chance, taken = random.Random(11), 0
    for _ in range(cases(12)):
        bad, path = spoilt(rig, chance)
        status, answer = bring_in(api, changed(demo, **{"rig.json": json.dumps(bad)}))
        if status == 400:
            assert answer["problems"][0]["reason"] and Rig.objects.count() == before, path
            continue
        assert status == 201, (path, answer)
        taken += 1
        pages = all_pages(api, answer["slug"])
        assert set(pages.values()) <= {200}, (path, pages)
        assert api.client.get("/api/v1/rigs").status_code == 200
        Rig.objects.get(slug=answer["slug"]).delete()
    assert cases(1) <= taken < cases(12)  # some changes do no harm, and a judge that always refuses proves nothing


def encrypted(data):
    """The archive with the encryption mark set in every entry."""
    marked = bytearray(data)
    for signature, offset in ((b"PK\x01\x02", 8), (b"PK\x03\x04", 6)):
        at = marked.find(signature)
        while at >= 0:
            marked[at + offset] |= 1
            at = marked.find(signature, at + 1)
    return bytes(marked)


def cooled(**spoilt):
    """The rig with a compressor beside its heater, one number of it spoilt."""
    cooler = {"cooled_by": "compressor", "cooler_w": 300.0, "drive_w": 140.0, "coldest_c": -5.0, **spoilt}
    return lambda d: with_rig(d, lambda r: r["rig"].update(cooler=cooler))


RAW = [
    ("a bottomless nest", lambda d: changed(d, **{"rig.json": "[" * 20_000 + "]" * 20_000}), "nested too deeply"),
    ("a nest that just parses", lambda d: changed(d, **{"rig.json": '{"a":' * 60 + "1" + "}" * 60}), "nested"),
    ("four hundred digits", lambda d: changed(d, **{"rig.json": '{"rig": ' + "9" * 400 + "}"}), "too large a number"),
    ("Infinity", lambda d: changed(d, **{"rig.json": '{"rig": Infinity}'}), "not a number"),
    ("1e999", lambda d: changed(d, **{"rig.json": '{"rig": 1e999}'}), "too large a number"),
    ("no UTF-8", lambda d: changed(d, **{"rig.json": b"\xff\xfe{"}), "not JSON"),
    ("an encrypted file", encrypted, "encrypted"),
    ("a file cut short", lambda d: d[: len(d) // 2], "not a rig file"),
    ("a name of nothing", lambda d: with_rig(d, lambda r: r["rig"].update(name="!!!")), "letters or digits"),
    ("an unknown station", lambda d: with_rig(d, lambda r: r["entries"][0].update(station="moon")), "damaged"),
    ("a cooler of words", cooled(coldest_c="cold"), "cooler.coldest_c"),
    ("a cooler of truths", cooled(drive_w=True), "cooler.drive_w"),
    ("a cooler of heaven", cooled(cooler_w=1e30), "cooler.cooler_w"),
    ("an author of lists", lambda d: with_rig(d, lambda r: r["entries"][0].update(who=["x"])), "no text"),
    ("a book of text", lambda d: with_rig(d, lambda r: r.update(entries="x")), "no list of rows"),
]


@pytest.mark.parametrize(("what", "spoil", "says"), RAW, ids=[r[0] for r in RAW])
def test_what_no_parser_should_be_given(api, demo, what, spoil, says):
    before = Rig.objects.count()
    status, answer = bring_in(api, spoil(demo))
    assert status == 400 and says in str(answer["problems"])
    assert Rig.objects.count() == before


def test_bytes_flipped_in_the_zip_never_break_the_server(api, demo):
    chance, before = random.Random(3), Rig.objects.count()
    for _ in range(cases(10)):
        damaged = bytearray(demo)
        for _ in range(chance.randint(1, 8)):
            damaged[chance.randrange(len(damaged))] = chance.randrange(256)
        status, answer = bring_in(api, bytes(damaged))
        assert status in (201, 400), answer
        if status == 201:
            Rig.objects.get(slug=answer["slug"]).delete()
    assert Rig.objects.count() == before


def test_who_and_when_in_an_imported_book_are_only_what_the_file_says(api, demo):
    forged = with_rig(demo, lambda r: r["entries"][0].update(who="The inspector", at="2031-01-01T00:00:00Z"))
    slug = bring_in(api, forged)[1]["slug"]
    book = api.ok("GET", f"rigs/{slug}/book")
    assert all(e["imported"] != e["title"].startswith("Imported from") for e in book)
    again = bring_in(api, export(api, slug))[1]["slug"]
    assert sum(not e["imported"] for e in api.ok("GET", f"rigs/{again}/book")) == 1


PROGRAM = b"<!doctype html><script>fetch('/api/v1/rigs')</script>"


@pytest.mark.parametrize("image", [PROGRAM, b"<svg xmlns='http://www.w3.org/2000/svg' onload='alert(1)'/>"])
def test_a_program_is_no_photograph_whatever_the_file_calls_it(api, demo, image):
    photo = {"terminal": "E1.1", "kind": "text/html", "at": "2026-01-01T00:00:00Z"}
    rig = json.loads(contents(demo)["rig.json"]) | {"photos": [photo]}
    status, answer = bring_in(api, changed(demo, **{"rig.json": json.dumps(rig), "photos/1": image}))
    assert status == 400 and "not a photo" in str(answer["problems"])
    kept = Rig.objects.first()  # stored by an older Rellux
    old = Photo.objects.create(rig=kept, terminal="E1.1", image=image, kind="text/html", at=kept.created_at)
    assert api.client.get(f"/api/v1/rigs/{kept.slug}/wiring/photos/{old.pk}").status_code == 404


def photograph(size=(1600, 1200), kind="JPEG", **how):
    out = io.BytesIO()
    Image.effect_noise(size, 80).convert("RGB").save(out, kind, **how)
    return out.getvalue()


def with_position():
    """A photograph held sideways, with a place on earth and a program after its end."""
    exif = Image.Exif()
    exif[0x0112] = 6
    exif.get_ifd(0x8825)[2] = (52.0, 31.0, 12.0)
    return photograph((400, 200), exif=exif.tobytes(), comment=b"made at home") + PROGRAM


def sent(api, image):
    rig = Rig.objects.get(slug="cement-cabinet")
    body = {"file": io.BytesIO(image), "terminal": "E1.1", "revision": rig.revision}
    return api.client.post(f"/api/v1/rigs/{rig.slug}/wiring/photos", body)


def test_a_photograph_keeps_the_picture_and_nothing_else(api):
    load_demo()
    number = sent(api, with_position()).json()["photos"][-1]["id"]
    shown = api.client.get(f"/api/v1/rigs/cement-cabinet/wiring/photos/{number}")
    image = Image.open(io.BytesIO(shown.content))
    assert image.size == (200, 400)  # turned upright before the note on turning was dropped
    assert not image.getexif() and "comment" not in image.info and PROGRAM not in shown.content
    assert "sandbox" in shown["Content-Security-Policy"] and shown["X-Content-Type-Options"] == "nosniff"


HEIC = b"\x00\x00\x00\x18ftypheic" + b"\x00" * 40
PHOTOS = [
    ("HEIC", HEIC, "JPEG"),
    ("a GIF", photograph((9, 9), "GIF"), "not a photo"),
    ("half a photograph", photograph()[:9000], "damaged"),
    ("too many bytes", b"\xff\xd8\xff" + b"0" * 12_000_000, "too large"),
]


@pytest.mark.parametrize(("what", "image", "says"), PHOTOS, ids=[p[0] for p in PHOTOS])
def test_photographs_that_cannot_be_are_refused_in_words(api, what, image, says):
    load_demo()
    answer = sent(api, image)
    assert answer.status_code == 400 and says in str(answer.json()["problems"])


def test_a_picture_of_too_many_pixels_is_refused_before_it_is_unpacked(api):
    load_demo()
    out = io.BytesIO()
    Image.new("1", (30_000, 30_000)).save(out, "PNG")
    assert len(out.getvalue()) < 1_000_000
    answer = sent(api, out.getvalue())
    assert (answer.status_code == 400 and "pixels" in str(answer.json())) or "larger" in str(answer.json())


@pytest.mark.parametrize(
    "body", ["[" * 20_000, '{"name": ' + "9" * 400 + "}", '{"name": NaN}', '{"name": 1e999}', "\xff"]
)
def test_no_body_breaks_an_operation(api, body):
    answer = api.client.post("/api/v1/rigs", body, content_type="application/json")
    assert answer.status_code == 400 and answer.json()["problems"][0]["reason"]


@pytest.mark.parametrize("text", ["=1+1", "+1", "-1", "@x", "\tx", "'=1", "''@", "plain", "it's", "'quoted'", "", "-"])
def test_a_cell_is_no_formula_and_reads_back_unchanged(text):
    written = neutral(text)
    assert written[:1] not in tuple("=+-@\t\r") and plain(written) == text
    assert neutral(-1.5) == -1.5


def test_own_parts_named_like_formulas_come_back_from_their_file(api):
    for title in ("=SUM(A1)", "'-plain", "+ve rail"):
        api.ok("POST", "library", {"title": title, "kind": "contactor", "numbers": {}, "ratings": {}})
    before = api.ok("GET", "library")["own"]
    file = api.client.get("/api/v1/library/export.csv").content
    cells = [line.split(b",")[0] for line in file.splitlines()[1:]]
    assert len(cells) == 3 and not any(c.startswith((b"=", b"+", b"-", b"@")) for c in cells)
    for part in before:
        api.ok("DELETE", f"library/{part['id']}")
    answer = api.client.post("/api/v1/library/import", {"file": io.BytesIO(file)})
    assert [p["title"] for p in answer.json()["own"]] == [p["title"] for p in before]
