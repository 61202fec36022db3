import { readdirSync, readFileSync, statSync } from "node:fs";
import { dirname, join, normalize, relative } from "node:path";
import { describe, expect, it } from "vitest";

/** The rooms in one direction: each may use itself and those before it. Rooms in one list know nothing of each other. */
const ROOMS: string[][] = [
  ["testing"],
  ["api"],
  ["ui"],
  ["shell"],
  ["lens"],
  ["cards"],
  ["picture"],
  ["imports"],
  ["bench"],
  [
    "stages/gather",
    "stages/reduce",
    "stages/arrange",
    "stages/ramp",
    "stages/check",
    "stages/deliver",
    "shelf",
  ],
  ["app"],
];
const SOURCE = join(process.cwd(), "src");
const MOST_LINES = 400;

function files(folder: string): string[] {
  return readdirSync(folder).flatMap((name) => {
    const path = join(folder, name);
    return statSync(path).isDirectory() ? files(path) : /\.tsx?$/.test(name) ? [path] : [];
  });
}

function roomOf(path: string) {
  const inside = relative(SOURCE, path);
  for (const [level, rooms] of ROOMS.entries())
    for (const room of rooms) if (inside.startsWith(`${room}/`)) return { level, room };
  return { level: ROOMS.length, room: inside };
}

const sources = files(SOURCE).filter((path) => !path.endsWith("schema.d.ts"));

describe("the rooms of the front end", () => {
  it("are used in one direction", () => {
    const wrong: string[] = [];
    for (const path of sources) {
      const here = roomOf(path);
      for (const [, to = ""] of readFileSync(path, "utf8").matchAll(
        /(?:from|import)\s*\(?\s*"(\.[^"]+)(?<!\.css)"/g,
      )) {
        const there = roomOf(normalize(join(dirname(path), `${to}.ts`)));
        if (there.room !== here.room && there.level >= here.level)
          wrong.push(`${relative(SOURCE, path)} uses ${there.room}`);
      }
    }
    expect(wrong).toEqual([]);
  });

  it("ask the server below api/ alone, and by one request there", () => {
    const asks = /\b(?:client|patientClient)\.(?:GET|POST|PUT|DELETE)\(|new XMLHttpRequest|(?<![.\w])fetch\(/;
    const loose = sources
      .filter((path) => !/\.test\.tsx?$/.test(path) && asks.test(readFileSync(path, "utf8")))
      .map((path) => relative(SOURCE, path))
      .filter((path) => !path.startsWith("api/"));
    expect(loose).toEqual([]);
    const direct = sources.filter(
      (path) => !/\.test\.tsx?$/.test(path) && /(?<![.\w])fetch\(/.test(readFileSync(path, "utf8")),
    );
    expect(direct.map((path) => relative(SOURCE, path))).toEqual(["api/request.ts"]);
  });

  it("hold every source", () => {
    const loose = sources.map(roomOf).filter(({ level }) => level === ROOMS.length);
    expect(loose.map(({ room }) => room).sort()).toEqual(["main.tsx", "rooms.test.ts"]);
  });

  it(`have no file over ${MOST_LINES} lines`, () => {
    const long = sources.filter((path) => readFileSync(path, "utf8").split("\n").length - 1 > MOST_LINES);
    expect(long.map((path) => relative(SOURCE, path))).toEqual([]);
  });

  it("say where a text's size comes from: a token, never pixels", () => {
    const loose = sources.filter(
      (path) => /text-\[\d/.test(readFileSync(path, "utf8")) && !path.endsWith("rooms.test.ts"),
    );
    expect(loose.map((path) => relative(SOURCE, path))).toEqual([]);
  });
});
