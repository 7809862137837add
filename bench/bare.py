"""A page with nothing but what an edit needs: it sends the edit, reads the sheet of the answer and writes its texts into the
cells of a plain table. What the report screen takes beyond it is the report screen's own. Drawn into an empty document of
the same server, with as many lines and columns as the report screen draws."""

from selenium import webdriver

BLANK = "/api/nothing"  # an address that nothing answers at: a document of the server that holds next to nothing
STYLE = """body { margin: 0; font: 14px/1.3 sans-serif } .box { height: 620px; width: 1180px; overflow: auto }
table { border-collapse: collapse; table-layout: fixed } td { height: 27px; width: 96px; text-align: right; padding: 0 8px;
white-space: nowrap; overflow: hidden; font-variant-numeric: tabular-nums; border-bottom: 1px solid #eee }"""
DRAW = """const [style, texts] = arguments;
document.body.replaceChildren();
const sheet = new CSSStyleSheet();
sheet.replaceSync(style);
document.adoptedStyleSheets = [sheet];
const box = document.createElement('div');
box.className = 'box sheet-scroll';
const table = document.createElement('table');
table.style.width = texts[0].length * 112 + 'px';
for (const line of texts) {
  const row = table.insertRow();
  for (const text of line) row.insertCell().textContent = text;
}
box.append(table);
document.body.append(box);"""
TOKEN = (
    "const [done] = arguments; fetch('/api/session').then(answer => answer.json()).then(found => done(found.token));"
)
EDIT = """const [path, revision, document_, token, done] = arguments;
const start = performance.now();
const rows = [...document.querySelectorAll('tr')];
fetch(path, {method: 'POST', headers: {'Content-Type': 'application/json', 'If-Match': `"${revision}"`,
             'X-Kalendor-Token': token},
             body: JSON.stringify(document_)})
  .then(answer => answer.json())
  .then(({report, sheet, ...fault}) => {
    if (!sheet) throw new Error(JSON.stringify(fault));
    const answered = performance.now();
    const lines = Object.values(sheet.cells);
    rows.forEach((row, i) => [...row.cells].forEach((cell, j) => { cell.textContent = lines[i]?.[j] ?? ''; }));
    requestAnimationFrame(() => setTimeout(() =>
      done({all: performance.now() - start, answered: answered - start, revision: report.revision, lines: lines.length}), 0));
  }).catch(fault => done({fault: String(fault)}));"""


def drawn(driver: webdriver.Chrome, address: str, texts: list[list[str]]) -> None:
    """Draw a plain table of the texts into an empty document of the server."""
    driver.get(address + BLANK)
    driver.execute_script(DRAW, STYLE, texts)


def token(driver: webdriver.Chrome) -> str:
    """What a page shows with each change that it sends."""
    return str(driver.execute_async_script(TOKEN))


def edited(driver: webdriver.Chrome, path: str, revision: int, document: object, shown: str) -> dict[str, float]:
    """Send one edit and paint its answer: milliseconds until all is painted, and until it was answered."""
    found: dict[str, float] = driver.execute_async_script(EDIT, path, revision, document, shown)
    if "fault" in found:
        raise RuntimeError(found["fault"])
    return found
