"""Care of the book as a person does it: put away and undo, export and import, backup and restore."""

import json
import re

from openpyxl import load_workbook
from playwright.sync_api import expect


def test_put_away_undo_and_back(page, job_id):
    page.goto("/shop")
    page.get_by_role("button", name="Archive Tern 250").click()
    expect(page.locator(".told")).to_contain_text("Tern 250 was archived.")
    expect(page.get_by_role("link", name="Tern 250")).to_have_count(0)
    page.get_by_role("button", name="Undo").click()
    expect(page.locator(".told")).to_contain_text("Tern 250 is in the workshop again.")
    expect(page.get_by_role("link", name="Tern 250")).to_be_visible()
    page.reload()
    expect(page.locator(".told")).to_have_count(0)

    page.goto(f"/jobs/{job_id('Deck plate')}/job")
    page.get_by_role("button", name="Archive the job").click()
    expect(page).to_have_url(re.compile("/book$"))
    expect(page.locator(".book")).not_to_contain_text("Deck plate")
    page.get_by_role("link", name="1 archived").click()
    expect(page.locator(".book")).to_contain_text("Deck plate")
    page.get_by_role("button", name="Restore").click()
    expect(page.locator(".book")).to_contain_text("Deck plate")


def test_export_import_backup_and_restore(page, job_id, tmp_path):
    page.goto("/book/care")
    with page.expect_download() as saved:
        page.get_by_role("link", name="Save an export").click()
    whole = json.loads(saved.value.path().read_text())
    jobs = len(whole["jobs"])
    with page.expect_download() as copied:
        page.get_by_role("link", name="Save a backup").click()
    backup = tmp_path / "backup.sqlite"
    copied.value.save_as(backup)

    # A file with one wrong number changes nothing and says where it is wrong.
    whole["jobs"][0]["uid"] = "0" * 32
    whole["jobs"][0]["title"] = "Came from the other shop"
    bad = tmp_path / "bad.json"
    bad.write_text(json.dumps(whole | {"jobs": [whole["jobs"][0] | {"made_at": "yesterday"}]}))
    page.set_input_files("#import-file", bad)
    page.get_by_role("button", name="See what it would bring").click()
    expect(page.locator(".problem-box")).to_contain_text("jobs.0.made_at")
    good = tmp_path / "good.json"
    good.write_text(json.dumps(whole))
    page.set_input_files("#import-file", good)
    page.get_by_role("button", name="See what it would bring").click()
    expect(page.locator("#new-jobs")).to_have_text("Came from the other shop")
    page.get_by_role("button", name="Bring it in").click()
    expect(page.locator(".told")).to_contain_text("Came in: 1 job; ")
    expect(page.locator(".book")).to_contain_text("Came from the other shop")

    # The backup takes the book's place; what came in since is gone, and kept aside.
    page.goto("/book/care")
    page.set_input_files("#restore-file", bad)
    page.get_by_role("button", name="Restore this backup").click()
    expect(page.locator(".problem-box")).to_contain_text(
        "The backup cannot be read: it is not an SQLite database"
    )
    page.set_input_files("#restore-file", backup)
    page.get_by_role("button", name="Restore this backup").click()
    # It asks once, and the way back is on the page.
    expect(page.locator(".asks")).to_contain_text(f"Replace {jobs + 1} jobs")
    expect(page.locator(".asks")).to_contain_text(f"by {jobs} jobs")
    page.get_by_role("link", name="Leave it as it is").click()
    page.goto("/book")
    expect(page.locator(".book")).to_contain_text("Came from the other shop")
    page.goto("/book/care")
    page.set_input_files("#restore-file", backup)
    page.get_by_role("button", name="Restore this backup").click()
    page.get_by_role("button", name="Replace the logbook").click()
    expect(page.locator(".book")).not_to_contain_text("Came from the other shop")
    page.get_by_role("button", name="Undo").click()
    expect(page.locator(".told")).to_contain_text("The logbook is as it was before the restore.")
    expect(page.locator(".book")).to_contain_text("Came from the other shop")
    page.goto("/book/care")
    page.set_input_files("#restore-file", backup)
    page.get_by_role("button", name="Restore this backup").click()
    page.get_by_role("button", name="Replace the logbook").click()
    expect(page.locator(".told")).to_contain_text(re.compile(r"The logbook has 1\d jobs"))
    expect(page.locator(".told")).to_contain_text("What was there before stays in")
    expect(page.locator(".book")).not_to_contain_text("Came from the other shop")
    page.goto(f"/jobs/{job_id('Float tank')}/read")
    expect(page.locator(".verdict")).to_be_visible()


def test_a_spreadsheet_with_two_bad_rows(open_desk, tmp_path):
    """A table saved from a spreadsheet: two rows are wrong, each is named with its line; corrected, it is taken whole."""
    page = open_desk()
    page.goto("/book/care")
    with page.expect_download() as saved:
        page.locator("#tables li", has_text="Coupons").get_by_role("link", name="XLSX").click()
    file = tmp_path / "from the bench.xlsx"
    saved.value.save_as(file)
    book = load_workbook(file)
    sheet = book.active
    column = {cell.value: cell.column for cell in sheet[1]}
    first = {head: sheet.cell(2, at).value for head, at in column.items()}
    last = sheet.max_row
    for line, width in ((last + 1, "wide"), (last + 2, 6.4), (last + 3, 900)):
        for head in ("job", "job uid", "border left [mm]", "border right [mm]", "seconds [s]", "length [mm]"):
            sheet.cell(line, column[head], first[head])
        sheet.cell(line, column["bead width [mm]"], width)
    book.save(file)

    page.set_input_files("#sheet-file", file)
    page.get_by_role("button", name="Look at it first").click()
    expect(page.locator(".problem-box")).to_contain_text(f"2 of {last + 2} rows cannot be taken")
    bad = page.locator("#sheet-rows tr.bad")
    expect(bad).to_have_count(2)
    expect(bad.nth(0).locator("td").first).to_have_text(str(last + 1))
    expect(bad.nth(1)).to_contain_text("bead width [mm]")
    sheet.cell(last + 1, column["bead width [mm]"], 6.1)
    sheet.cell(last + 3, column["bead width [mm]"], 6.3)
    book.save(file)
    page.goto("/book/care")
    page.set_input_files("#sheet-file", file)
    page.get_by_role("button", name="Look at it first").click()
    expect(page.locator("#counted")).to_contain_text(f"3 new, 0 corrected, {last - 1} already there")
    page.get_by_role("button", name="Take the table").click()
    expect(page.locator(".told")).to_contain_text("From the table: 3 new")
