import { describe, expect, test } from '@jest/globals';
import fc from 'fast-check';
import { connect } from 'node:net';
import { HpglReader, SimulatedCutter } from './index.ts';

const read = (text: string, cuts: number[] = []): unknown[] => {
  const reader = new HpglReader({ onControl: () => undefined });
  const bytes = Buffer.from(text, 'latin1');
  const places = [0, ...cuts.map((c) => c % bytes.length).sort((a, b) => a - b), bytes.length];
  return places.slice(1).flatMap((end, i) => reader.push(bytes.subarray(places[i], end)));
};

describe('reading cut files', () => {
  test('however the bytes are cut up, the commands are the same', () => {
    const text = 'IN;PA;SP1;VS40;PU0,0;PD400,0,400,400;PR;PD-40,0;PU;SP0;';
    fc.assert(
      fc.property(fc.array(fc.nat(), { maxLength: 6 }), (cuts) => expect(read(text, cuts)).toEqual(read(text))),
      { seed: 61 },
    );
    expect(read(text)).toContainEqual({ kind: 'move', x: 9, y: 10, down: true });
  });

  test('rubbish is skipped', () => {
    const reader = new HpglReader({ onControl: () => undefined });
    expect(reader.push(Buffer.from('XX1,2;PDa,b;\x00\x01;PU4,4;'))).toContainEqual({ kind: 'move', x: 0.1, y: 0.1, down: false });
    expect(reader.unknown).toBeGreaterThan(1);
  });
});

describe('the simulated cutter', () => {
  const cut = async (options: object, text: string): Promise<string> => {
    const cutter = new SimulatedCutter({ name: 'Test', port: 0, widthMm: 100, timeScale: 500, ...options });
    const port = await cutter.switchOn();
    await new Promise<void>((resolve, reject) => {
      const line = connect(port, '127.0.0.1', () => line.write(`${text}OS;`));
      line.on('data', () => {
        line.destroy();
        resolve();
      });
      line.on('error', reject);
    });
    const picture = cutter.pictureOf(1) ?? '';
    await cutter.switchOff();
    return picture;
  };

  test('draws what it was told, answers when it is done, and starts a new sheet at IN', async () => {
    expect(await cut({}, 'IN;SP1;PU0,0;PD800,0,800,800,0,800,0,0;PU;')).toContain('M0 100L20 100');
  });

  test('a blade that is not corrected for cuts its corners short', async () => {
    const square = 'IN;SP1;PU400,400;PD1200,400,1200,1200,400,1200,400,400;PU;';
    expect(await cut({}, square)).toContain('L30 90L30 70');
    expect(await cut({ corrects: false, bladeOffsetMm: 0.5 }, square)).not.toContain('L30 90');
  });

  test('an abort on one line leaves the work of another line alone', async () => {
    const cutter = new SimulatedCutter({ name: 'Test', port: 0, widthMm: 100, timeScale: 0.01 });
    const port = await cutter.switchOn();
    const open = (text: string) =>
      new Promise<ReturnType<typeof connect>>((resolve) => {
        const line = connect(port, '127.0.0.1', () => line.write(text, () => resolve(line)));
      });
    const old = await open('IN;SP1;PU0,0;PD4000,0;');
    const fresh = await open('IN;SP1;PU0,0;PD80,0;PU;OS;');
    const answered = new Promise<string>((resolve) => fresh.once('data', (bytes) => resolve(String(bytes))));
    while (cutter.report().state !== 'cutting') await new Promise((resolve) => setTimeout(resolve, 10));
    await new Promise((resolve) => setTimeout(resolve, 100));
    old.write('\x1b.K');
    await new Promise((resolve) => setTimeout(resolve, 100));
    cutter.options.timeScale = 500;
    expect(await answered).toBe('24\r');
    old.destroy();
    fresh.destroy();
    await cutter.switchOff();
  }, 8000);
});
