import { tmpdir } from 'node:os';
import { afterEach, describe, expect, it } from '@jest/globals';
import { readLowDisk } from './disk.ts';

afterEach(() => {
  delete process.env['DOCKROW_LOW_DISK_MB'];
});

describe('the disk of the database', () => {
  it('is told with what is left when that is little, and not while there is room', async () => {
    process.env['DOCKROW_LOW_DISK_MB'] = '0';
    expect(await readLowDisk(tmpdir())).toBeNull();
    process.env['DOCKROW_LOW_DISK_MB'] = '1000000000';
    const free = await readLowDisk(tmpdir());
    expect(free).toBeGreaterThan(0);
    expect(free).toBeLessThan(1_000_000_000);
  });
  it('says nothing where the database lies on another machine, or its folder is gone', async () => {
    process.env['DOCKROW_LOW_DISK_MB'] = '1000000000';
    expect(await readLowDisk(undefined)).toBeNull();
    expect(await readLowDisk('/nowhere/at/all')).toBeNull();
  });
});
