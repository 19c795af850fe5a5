"""Journeys with what can be linked: instruments, boards of one's own, brokers, logs that grow, and a spreadsheet brought in."""

import re
import threading
import time

import openpyxl
import pytest

from tests.devices.board import Board
from tests.devices.test_mqtt_link import PASSWORD, TOPIC, USER, Locked, Shop

from .test_journeys import reading


@pytest.mark.long
def test_several_devices_are_told_apart_recorded_and_seen_across_the_room(demo, browser):
    """A second probe renamed, a run of three devices marked from the bench view, and its lines left out and exchanged."""
    page = browser.open(demo.address, "/rigs/bake-out-shell/runs")
    page.see("mirror cell", 180)
    page.unfold("details.devices")
    page.fill("Name of Second probe", "bell, bottom")
    page.press("Keep")
    page.see("bell, bottom")
    page.press("Add an instrument")
    page.press("Add it")
    page.see("what is it called?")
    page.fill("Name", "Door box")
    page.press("Growing log")
    page.fill("Where the log is, on this machine", "/etc/passwd")
    page.press("Look at it")
    page.see("there is no log passwd")
    page.press("Leave it")

    page.press("Bench view")
    page.press("Record a run", 180)
    page.press("Mark this moment", 180)
    page.see("Noted.")
    page.see("supply voltage")
    page.press("8 h")
    page.until(lambda: re.search(r"recording, [1-9]", page.text), 30, "a minute of the run")
    page.press("Stop recording")
    page.see("not recording")

    page.press("Runs")
    page.until(lambda: page._pressable("bell, bottom"), 30, "the line of the renamed probe")
    page.press("room")
    assert page._pressable("room").get_attribute("aria-pressed") == "false"
    page.press("room")
    page.fill("Strip shows", "supply voltage")
    page.see("mark")
    page.open(demo.address, "/wall")
    for rig in ("Blank annealer", "Cement cabinet", "Bake-out shell", "Pitch plate"):
        page.see(rig, 180)
    page.until(lambda: page.text.count("output") == 6, 30, "six rigs that answer")
    assert page.complaints() == []


@pytest.mark.long
def test_a_board_takes_commands_and_is_switched_off(demo, browser):
    """The pitch plate's board: armed, heated by lines of text, confirmed by what it prints, and off again."""
    page = browser.open(demo.address, "/rigs/pitch-plate/runs")
    page.press("Arm writing", 180)
    page.press("Heat…", 180)
    page.see("Heat to 65 °C?")
    page.press("Write it")
    page.see("switch closed", 180)
    page.press("Heat off")
    page.see("Heat is off", 10)
    page.press("Close")
    page.see("switch open", 180)
    assert page.complaints() == []


def test_a_board_that_prints_is_listened_to_and_linked(demo, browser):
    """Its port typed, a wrong one first; what it prints shown and taken for what it is; its reading on the screen."""
    board = Board(lambda n: f"oven={41 + n % 3}.5 goal=65 duty={n % 100}\n", 0.1)
    try:
        page = browser.open(demo.address, "/rigs/cement-cabinet/runs")
        page.press("Simulated, 20", 180)
        page.press("Board that prints")
        page.fill("Serial port", "another, not listed…")
        page.fill("Serial port", "/dev/nowhere")
        page.press("Listen")
        page.see("there is no port /dev/nowhere", 180)
        page.fill("Serial port", board.device)
        page.press("Listen")
        page.see("goal=65 duty=", 180)
        page.see("lines are of this form, one every")
        assert page.field("oven").get_attribute("value") == "reading"
        page.fill("goal", "set-point")
        page.press("Link")
        page.see("Rellux only listens", 180)
        page.until(lambda: (reading(page) or 0) > 40, 30, "the board's reading")
    finally:
        board.unplug()
    page.see("unplugged", 180)  # at first that it is gone, then that there is no such port


@pytest.mark.long
def test_a_broker_that_lets_only_its_users_in_is_linked(demo, browser, tmp_path):
    """First by an open way, then with a wrong password; the right one is kept, and is on no page."""
    locked = Locked(tmp_path)
    shop, stopping = Shop(locked), threading.Event()

    def send():
        while not stopping.wait(0.2):
            shop.say(reading_c=217.0, setpoint_c=220.0)

    threading.Thread(target=send, daemon=True).start()
    try:
        page = browser.open(demo.address, "/rigs/cement-store/runs")
        page.press("Simulated, 1×", 180)
        page.press("MQTT")
        page.fill("Address", "127.0.0.1")
        page.fill("Port", str(shop.port))
        page.fill("Topic", "rellux/#")
        page.press("Link")
        page.see("its levels without wildcards", 180)
        page.fill("Topic", TOPIC)
        page.press("Encrypted")
        page.fill("User", USER)
        page.fill("Password", "guessed")
        page.fill("Certificate that vouches for it", str(tmp_path / "users"))
        page.press("Link")
        page.see("no file with a certificate", 180)
        page.fill("Certificate that vouches for it", str(locked.authority))
        page.press("Link")
        page.see("the broker", 60)
        page.press(f"{TOPIC}")
        page.fill("Password", PASSWORD)
        page.press("Link")
        page.until(lambda: reading(page) == 217.0, 60, "what the sender says")
        page.press(f"{TOPIC}")
        assert page.field("Password").get_attribute("value") == "" and PASSWORD not in page.driver.page_source
        assert page.field("Password").get_attribute("placeholder") == "the one that is kept"
        assert PASSWORD not in str(page.driver.execute_script("return Object.values(sessionStorage)"))
    finally:
        stopping.set()
        shop.close()


@pytest.mark.long
def test_what_a_log_held_while_the_recorder_was_down_is_in_the_run(demo, browser, tmp_path):
    log, stopping = tmp_path / "oven.csv", threading.Event()
    log.write_text("time;oven;SP\n" + "".join(f"{1.7e9 + i:.0f};{20 + i},5;65\n" for i in range(5)), encoding="utf-8")

    def write():
        i = 5
        while not stopping.wait(0.05):
            with log.open("a", encoding="utf-8") as file:
                file.write(f"{1.7e9 + i:.0f};{20 + i % 40},5;65\n")
            i += 1

    threading.Thread(target=write, daemon=True).start()
    try:
        page = browser.open(demo.address, "/rigs/board-plate/runs")
        page.press("Growing log", 180)
        page.fill("Where the log is, on this machine", str(log))
        page.press("Look at it")
        page.see("Decimal mark", 180)
        page.press("Link")
        page.until(lambda: (reading(page) or 0) > 20, 60, "a reading")
        page.press("Record a run", 180)
        time.sleep(2.0)
        demo.kill("manage record")
        page.see("rows that its log held meanwhile were taken from there", 60)
        page.press("Stop recording", 180)
    finally:
        stopping.set()


def test_another_sheet_of_a_spreadsheet_is_brought_in(demo, browser, tmp_path):
    book = openpyxl.Workbook()
    book.active.title = "Room"
    tray = book.create_sheet("Tray 2")
    for i in range(200):
        book.active.append([float(i), 21.0, 40.0] if i else ["seconds", "room °C", "humidity"])
        if i < 90:
            tray.append([float(i), 60.0 + i % 5] if i else ["seconds", "tray °C"])
    book.save(tmp_path / "week.xlsx")
    page = browser.open(demo.address, "/rigs/cement-cabinet/runs/import")
    page.see("Import a log", 180)
    page.attach("Log file", str(tmp_path / "week.xlsx"))
    page.see("the sheet Room, 200 rows", 180)
    page.fill("Sheet", "Tray 2")
    page.see("the sheet Tray 2, 90 rows", 180)
    page.press("Bring it in")
    page.until(lambda: re.search(r"/runs/\d+$", page.driver.current_url), 180, "the new run")
    page.see("week", 180)


def test_lists_of_numbers_are_typed_in_a_map_and_what_wears_out_is_said(demo, browser):
    """A comma is not taken away under the finger; a number that is none is refused by name."""
    page = browser.open(demo.address, "/maps")
    page.press("A new map", 180)
    page.fill("Name of the controller", "Typed by hand")
    page.unfold(".registers details")
    field = page.field("Numbers that mean no value")
    field.send_keys("32767, -1, ")
    assert field.get_attribute("value") == "32767, -1, "
    field.send_keys("none")
    page.press("Save the map")
    page.see("no_value" if "no_value" in page.text else "number", 180)
    for _ in range(4):
        field.send_keys("\b")
    page.press("Save the map")
    page.see("no rig speaks by it", 180)
    page.press("Typed by hand")
    page.unfold(".registers details")
    assert page.field("Numbers that mean no value").get_attribute("value") == "32767, -1"
    page.press("Remove")
    page.gone("Typed by hand")
