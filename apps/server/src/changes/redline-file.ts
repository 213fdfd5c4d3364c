/** The redline of an order as files: a change notice to be printed, and XML to be read by programs. */
import type { ChangeView, FileAnswer, RedlineAnswer } from '@stem-trace/contract';
import { sayTakesEffect } from '@stem-trace/core';
import { printOverlaid, writeChangeXml, type OutTable, type OverlaidPart } from '@stem-trace/formats';

/** What a drawing's versions laid over each other show, or why they cannot be. */
export type DrawnOver = OverlaidPart['shows'] | { readonly says: string };

/** @param drawings by number */
export async function changeNotice(
  view: ChangeView,
  redline: RedlineAnswer,
  drawings: ReadonlyMap<string, DrawnOver>,
): Promise<FileAnswer> {
  const parts = redline.rows.flatMap(({ number, from, to }): OverlaidPart[] => {
    const shows = drawings.get(number);
    return !shows || 'says' in shows ? [] : [{ title: `${number} ${from ?? ''} → ${to}`, shows }];
  });
  const made = new Date().toISOString().slice(0, 10);
  const { bytes } = await printOverlaid(noticeOf(view, redline, drawings), made, parts);
  return fileOf(view, bytes, 'pdf');
}

export function redlineXml(view: ChangeView, redline: RedlineAnswer): FileAnswer {
  return fileOf(view, new TextEncoder().encode(xmlOf(view, redline)), 'xml');
}

function fileOf({ number, version }: ChangeView, bytes: Uint8Array, format: 'pdf' | 'xml'): FileAnswer {
  return {
    name: `Change notice ${number} ${version.replace('/', '-')}.${format}`,
    media: `application/${format}`,
    base64: Buffer.from(bytes).toString('base64'),
  };
}

function noticeOf(
  view: ChangeView,
  { rows, massKg, cost }: RedlineAnswer,
  drawings: ReadonlyMap<string, DrawnOver>,
): OutTable {
  const { number, name, version, state, contents, lines, tasks, sums } = view;
  const listed = (relation: string): string[] => {
    const named = lines
      .filter((line) => line.relation === relation)
      .map((line) => `${line.number} ${line.name}`);
    return named.length === 0
      ? []
      : [`${relation.slice(0, 1).toUpperCase()}${relation.slice(1)}: ${named.join(', ')}`];
  };
  const sum = [
    massKg === null ? [] : `mass ${signed(massKg)} kg`,
    cost === null ? [] : `parts ${signed(cost)}`,
    view.contents.costs.length === 0 ? [] : `entered costs ${sums.all} ${contents.currency}`,
  ].flat();
  return {
    title: `Change notice ${number}: ${name}`,
    says: [
      `${version}, ${state}. Takes effect ${sayTakesEffect(contents.takesEffect)}.`,
      contents.why,
      ...['answers', 'shows in', 'affects', 'refers to'].flatMap(listed),
      ...(sum.length === 0 ? [] : [`In sum: ${sum.join('; ')}`]),
      ...tasks.map((task) => `${task.done ? `Done by ${task.done.by}` : 'To do'}: ${task.what}`),
    ],
    columns: [
      { title: 'Sign', width: 6 },
      { title: 'Item', width: 24, isTree: true },
      { title: 'Name', width: 28, wraps: true },
      { title: 'From', width: 12 },
      { title: 'To', width: 12 },
      { title: 'What', width: 46, wraps: true },
    ],
    rows: rows.flatMap((made) => [
      {
        level: 1,
        cells: [made.from === null ? '+' : '≠', made.number, made.name, made.from ?? '', made.to, made.says],
      },
      ...made.whole.map(({ what, before, after }) => ({
        level: 2,
        // Where there is room for it, as it may be long.
        cells: ['≠', what, '', '', '', `${before === '' ? '–' : before} → ${after === '' ? '–' : after}`],
      })),
      ...drawnRows(drawings.get(made.number)),
      ...made.rows.map((row) => ({
        level: 2,
        cells: [row.sign, row.number, row.name, row.before, row.after, row.what],
      })),
    ]),
  };
}

function drawnRows(shows: DrawnOver | undefined): OutTable['rows'] {
  return shows ? [{ level: 2, cells: ['', 'Both laid over each other', '', '', '', sayDrawn(shows)] }] : [];
}

function sayDrawn(shows: DrawnOver): string {
  if ('says' in shows) return shows.says;
  if (shows.kind === 'pages') return 'on the pages at the end';
  const differing = shows.sheets.filter(({ overlay }) => overlay.places.length > 0);
  if (differing.length === 0) return 'nothing that is drawn differs';
  const counts = differing.map(({ name, overlay }) => `${name} at ${overlay.places.length}`);
  const last = differing.at(-1)?.overlay.places.length === 1 ? 'place' : 'places';
  return `differs on ${counts.join(', ')} ${last}; see the pages at the end`;
}

function signed(value: number): string {
  return `${value > 0 ? '+' : ''}${Number(value.toPrecision(6))}`;
}

function xmlOf(view: ChangeView, redline: RedlineAnswer): string {
  const { number, name, version, state, contents, lines } = view;
  return writeChangeXml({
    ...{ number, name, version, state, why: contents.why, until: contents.until },
    takesEffect: sayTakesEffect(contents.takesEffect),
    items: lines.map((line) => ({
      relation: line.relation,
      number: line.number,
      name: line.name,
      note: line.note,
    })),
    makes: redline.rows.map(({ number: of, name: called, from, to, says, whole, rows }) => ({
      ...{ number: of, name: called, from, to, says },
      whole: whole.map(({ what, before, after }) => ({ what, before, after })),
      rows: rows.map(({ sign, number: row, name: rowName, before, after }) => ({
        ...{ sign, number: row, name: rowName, before, after },
      })),
    })),
  });
}
