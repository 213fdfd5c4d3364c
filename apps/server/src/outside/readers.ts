/** Programs that others wrote, asked what they find in a folder of files. */
import { execFile } from 'node:child_process';
import { mkdir, readdir, readFile, symlink, writeFile } from 'node:fs/promises';
import { join } from 'node:path';
import { promisify } from 'node:util';

const run = promisify(execFile);
const LIBRARIES = '/usr/lib/x86_64-linux-gnu';

export interface Measure {
  readonly solids: number;
  /** mm³ */
  readonly volume: number;
}

/** A geometry kernel that reads STEP with the files it refers to, and writes such sets. */
export class Kernel {
  private constructor(private readonly folder: string) {}

  /** @param folder where it may keep scripts; Debian has its plug-ins only under names with a version */
  static async open(folder: string): Promise<Kernel> {
    const plugins = join(folder, 'plugins');
    await mkdir(plugins, { recursive: true });
    for (const name of await readdir(LIBRARIES)) {
      const plain = /^(libTK\w+\.so)\.\d+$/.exec(name)?.[1];
      if (plain !== undefined) await symlink(join(LIBRARIES, name), join(plugins, plain));
    }
    return new Kernel(folder);
  }

  /** Solids in place, with every instance counted, of each assembly with all files that it refers to. */
  async solidsIn(files: readonly string[]): Promise<number[]> {
    return (await this.measure(files)).map(({ solids }) => solids);
  }

  /** As `solidsIn`, with the volume of all of them in mm³; -1 solids where a file is not read. */
  async measure(files: readonly string[]): Promise<Measure[]> {
    const said = await this.script([
      ...files.flatMap((file) => [
        'catch {Close D}',
        `if {[catch {ReadStep D {${file}}} msg]} { puts "SOLIDS -1 VOLUME 0" } else {`,
        'XGetOneShape S D',
        'regexp {SOLID\\s*:\\s*(\\d+)} [nbshapes S -t] all count',
        // Solid by solid, as exactly as that: of many together, and left to itself, the kernel may be off by a thousandth.
        'set volume 0',
        'compound S W',
        'foreach solid [explode W so] {',
        'regexp {Mass :\\s*(\\S+)} [vprops $solid 1e-6] all each',
        'set volume [expr $volume + $each] }',
        'puts "SOLIDS $count VOLUME $volume" }',
      ]),
    ]);
    return [...said.matchAll(/SOLIDS (-?\d+) VOLUME (\S+)/g)].map(([, solids, volume]) => ({
      ...{ solids: Number(solids), volume: Number(volume) },
    }));
  }

  /** An assembly of plates, nuts and pins in two levels as one root and a file for each leaf; documents are products in it. */
  async writeSet(folder: string): Promise<void> {
    await mkdir(folder, { recursive: true });
    await this.script([
      'box a 10 20 5',
      'box b 5 5 5',
      'pcylinder c 3 12',
      'NewDocument D BinXCAF',
      'set la [XAddShape D a 0]',
      'set lb [XAddShape D b 0]',
      'set lc [XAddShape D c 0]',
      'SetName D $la "Plate"',
      'SetName D $lb "Nut"',
      'SetName D $lc "Pin"',
      // A shape that nothing uses gets a file all the same.
      'compound L',
      'XAddShape D L 0',
      'set top [XNewShape D]',
      'set sub [XNewShape D]',
      'SetName D $top "Frame"',
      'SetName D $sub "Joint"',
      'XAddComponent D $sub b',
      'ttranslate b 1 2 3',
      'XAddComponent D $sub b',
      'XAddComponent D $sub c',
      'XGetShape J D $sub',
      'XAddComponent D $top a',
      'XAddComponent D $top J',
      'ttranslate J 0 0 50',
      'XAddComponent D $top J',
      'XUpdateAssemblies D',
      `WriteStep D {${join(folder, 'frame.stp')}} a leaf_`,
    ]);
  }

  private async script(lines: readonly string[]): Promise<string> {
    const file = join(this.folder, 'script.tcl');
    await writeFile(file, ['pload MODELING OCAFKERNEL XDE', ...lines, 'exit'].join('\n'));
    const { stdout } = await run('occt-draw', ['-b', '-f', file], {
      env: { ...process.env, LD_LIBRARY_PATH: join(this.folder, 'plugins') },
      maxBuffer: 100e6,
    });
    return stdout;
  }
}

const AUDIT = `
import sys, ezdxf
for path in sys.argv[1:]:
    try:
        drawing = ezdxf.readfile(path)
        audit = drawing.audit()
        for found in list(audit.errors) + list(audit.fixes):
            print(path, found.code, found.message)
    except Exception as error:
        print(path, type(error).__name__, error)
`;

/** What a strict reader of DXF finds wrong in drawings. */
export async function faultsInDrawings(files: readonly string[]): Promise<string[]> {
  if (files.length === 0) return [];
  const { stdout } = await run('/usr/bin/python3', ['-c', AUDIT, ...files], { maxBuffer: 100e6 });
  return stdout.split('\n').filter(Boolean);
}

/** An office program turns a file into another format. @returns the bytes of what it made */
export async function officeConverts(file: string, to: 'csv' | 'xlsx'): Promise<Uint8Array> {
  const folder = `${file}-${to}`;
  await run(
    'soffice',
    [
      // A profile of its own: a second one at a time is refused.
      `-env:UserInstallation=file://${folder}-profile`,
      ...['--headless', '--convert-to', to, '--outdir', folder, file],
    ],
    { timeout: 120_000 },
  );
  const [made] = await readdir(folder);
  if (made === undefined) throw new Error(`nothing was made of ${file}`);
  return readFile(join(folder, made));
}
