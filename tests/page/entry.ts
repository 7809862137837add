// The page's own reckoning, without its screens: what a test asks for by name is answered as JSON, a line each.
import { createInterface } from "node:readline";

import * as beside from "../../web/src/editors/beside";
import * as editQueue from "../../web/src/definition/editQueue";
import * as merging from "../../web/src/definition/merging";
import * as change from "../../web/src/definition/change";
import * as outline from "../../web/src/sheet/outline";
import * as toned from "../../web/src/brief/toned";
import * as sql from "../../web/src/parts/sql";
import * as sorting from "../../web/src/report/paper/sorting";
import * as direct from "../../web/src/report/paper/direct";
import * as charting from "../../web/src/chart/charting";
import * as grid from "../../web/src/sheet/grid";
import * as renaming from "../../web/src/definition/renaming";
import * as treeEdits from "../../web/src/groupings/treeEdits";
import * as numbers from "../../web/src/parts/numbers";
import * as dates from "../../web/src/parts/dates";
import * as delivery from "../../web/src/board/delivery";
import * as marking from "../../web/src/sheet/marking";
import * as picking from "../../web/src/board/picking";
import * as words from "../../web/src/parts/words";

const modules: Record<string, Record<string, unknown>> = {
  beside,
  change,
  dates,
  delivery,
  grid,
  charting,
  direct,
  sorting,
  toned,
  sql,
  editQueue,
  merging,
  marking,
  numbers,
  outline,
  renaming,
  picking,
  treeEdits,
  words,
};

createInterface({ input: process.stdin }).on("line", (line) => {
  const { module, name, args } = JSON.parse(line) as {
    module: string;
    name: string;
    args: unknown[];
  };
  const found = modules[module]?.[name] as (...args: unknown[]) => unknown;
  let answer: object;
  try {
    answer = { value: found(...args) ?? null };
  } catch (error) {
    answer = { error: String(error) };
  }
  process.stdout.write(`${JSON.stringify(answer)}\n`);
});
