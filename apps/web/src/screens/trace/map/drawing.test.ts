// @vitest-environment happy-dom
import ELK from 'elkjs/lib/elk.bundled.js';
import * as fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { blocked } from './blocks.js';
import { drawingOf, elkGraph, plateAt, sizeOf, type Drawing } from './drawing.js';
import type { MapEdge, MapGraph, MapNode } from './map-graph.js';
import { mapSvg } from './map-picture.js';
import { isWithin, overlap, partIn, seenBy, serves, widened } from './sight.js';

const elk = new ELK();

async function drawn(graph: MapGraph): Promise<Drawing> {
  const parts = blocked(graph, sizeOf);
  return drawingOf(parts, await elk.layout(elkGraph(parts)));
}

function node(id: string, role: MapNode['role'] = 'item'): MapNode {
  const item = {
    number: id,
    name: `name of ${id}`,
    state: 'draft',
    version: 'A/1',
    isGap: false,
    isHidden: false,
  };
  return { id, item: { ...item, state: 'draft' }, role, isFolded: false, canFold: false };
}

function edge(from: string, to: string, more: Partial<MapEdge> = {}): MapEdge {
  return { id: `${from} ${to}`, from, to, quantity: 2, isBehind: false, isPaper: false, ...more };
}

/** A focus, assemblies below it, and as many parts that hang at each of them alone; some are shared. */
const graphs = fc
  .record({
    assemblies: fc.array(fc.nat(40), { minLength: 1, maxLength: 6 }),
    shared: fc.nat(5),
    papers: fc.nat(20),
  })
  .map(({ assemblies, shared, papers }): MapGraph => {
    const own = assemblies.flatMap((count, at) =>
      Array.from({ length: count }, (_, part) => edge(`a${at}`, `p${at}.${part}`)),
    );
    const both = Array.from({ length: shared }, (_, part) =>
      assemblies.map((_count, at) => edge(`a${at}`, `s${part}`)),
    ).flat();
    const drawings = Array.from({ length: papers }, (_, at) => edge('F', `d${at}`, { isPaper: true }));
    const down = assemblies.map((_, at) => edge('F', `a${at}`));
    const edges = [...down, ...own, ...both, ...drawings];
    const ids = [...new Set(edges.map(({ to }) => to))];
    return {
      nodes: [node('F', 'focus'), ...ids.map((id) => node(id, id.startsWith('d') ? 'paper' : 'item'))],
      edges,
      leftOut: 0,
    };
  });

describe('a map as it is drawn', () => {
  it('has every item once, none over another, and every link as a line or on its plate', async () => {
    await fc.assert(
      fc.asyncProperty(graphs, async (graph) => {
        const { plates, frames, lines, bounds } = await drawn(graph);
        expect(plates.map(({ node: { id } }) => id).sort()).toEqual(graph.nodes.map(({ id }) => id).sort());
        plates.forEach((plate, at) => {
          expect(isWithin(plate, bounds)).toBe(true);
          for (const other of plates.slice(at + 1)) expect(overlap(plate, other)).toBe(false);
        });
        const ends = new Set([...plates.map(({ node: { id } }) => id), ...frames.map(({ id }) => id)]);
        expect(lines.every(({ from, to }) => ends.has(from) && ends.has(to))).toBe(true);
        const inFrames = plates.filter(({ link }) => link !== undefined).length;
        expect(frames.reduce((sum, { count }) => sum + count, 0)).toBe(inFrames);
        expect(lines.length - frames.length + inFrames).toBe(graph.edges.length);
      }),
      { numRuns: 60 },
    );
  });

  it('puts many parts of one assembly into a frame that is about as high as wide', async () => {
    const edges = Array.from({ length: 100 }, (_, at) => edge('F', `p${at}`, { isBehind: at === 50 }));
    const graph = { nodes: [node('F', 'focus'), ...edges.map(({ to }) => node(to))], edges, leftOut: 0 };
    const { frames, lines, plates } = await drawn(graph);
    expect(frames).toHaveLength(1);
    const [frame] = frames;
    expect((frame?.widthPx ?? 0) / (frame?.heightPx ?? 1)).toBeGreaterThan(0.5);
    expect((frame?.widthPx ?? 0) / (frame?.heightPx ?? 1)).toBeLessThan(2);
    // One line, which says that something behind lies in there.
    expect(lines).toMatchObject([{ from: 'F', to: frame?.id, label: '', isBehind: true }]);
    expect(plates.filter(({ link }) => link?.quantity === 2)).toHaveLength(100);
  });

  it('finds the plate at a point, and nothing between plates', async () => {
    const drawing = await drawn({
      nodes: [node('F', 'focus'), node('p')],
      edges: [edge('F', 'p')],
      leftOut: 0,
    });
    for (const plate of drawing.plates)
      expect(plateAt(drawing, plate.x + plate.widthPx / 2, plate.y + 1)?.node.id).toBe(plate.node.id);
    const [left, right] = [...drawing.plates].sort((a, b) => a.x - b.x);
    const between = ((left?.x ?? 0) + (left?.widthPx ?? 0) + (right?.x ?? 0)) / 2;
    expect(plateAt(drawing, between, left?.y ?? 0)).toBeUndefined();
  });

  it('gives the canvas all that is in sight, wherever it looks, with both ends of each line', async () => {
    const looks = fc.record({
      x: fc.integer({ min: -900, max: 300 }),
      y: fc.integer({ min: -900, max: 300 }),
      zoom: fc.constantFrom(0.5, 0.8, 1.6),
    });
    await fc.assert(
      fc.asyncProperty(graphs, looks, fc.integer({ min: -200, max: 200 }), async (graph, look, movePx) => {
        const drawing = await drawn(graph);
        const canvas = { widthPx: 400, heightPx: 300 };
        const sight = widened(seenBy(look, canvas));
        const { ids, lines } = partIn(drawing, sight);
        const moved = seenBy({ ...look, x: look.x + movePx }, canvas);
        for (const plate of drawing.plates)
          if (serves(sight, moved) && overlap(plate, moved)) expect(ids).toContain(plate.node.id);
        expect(lines.every(({ from, to }) => ids.has(from) && ids.has(to))).toBe(true);
        expect(serves(sight, moved)).toBe(Math.abs(movePx) <= canvas.widthPx / 2);
        // From farther off it no longer serves.
        expect(serves(sight, seenBy({ ...look, zoom: look.zoom / 3 }, canvas))).toBe(false);
      }),
      { numRuns: 40 },
    );
  });

  it('becomes a picture in which what people typed is text and nothing else', async () => {
    const hostile = node('<script>alert(1)</script>&"');
    const drawing = await drawn({
      nodes: [node('F', 'focus'), hostile],
      edges: [edge('F', hostile.id)],
      leftOut: 0,
    });
    const picture = new DOMParser().parseFromString(mapSvg(drawing), 'image/svg+xml');
    expect(picture.querySelector('parsererror')).toBeNull();
    expect(picture.querySelectorAll('script')).toHaveLength(0);
    expect(picture.documentElement.textContent).toContain('<script>alert(1)</s');
    expect(picture.querySelectorAll('path')).toHaveLength(1);
    expect(picture.documentElement.textContent).toContain('×2');
  });
});
