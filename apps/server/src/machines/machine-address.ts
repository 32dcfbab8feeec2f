/**
 * Where machines may be: this computer and private networks (RFC 1918, 4193, 3927, 6598), and what the settings name.
 * Names are looked up here and the address that was looked at is the one that is spoken to.
 */
import { lookup } from 'node:dns/promises';
import { BlockList, isIP } from 'node:net';

const near = new BlockList();
for (const [net, bits] of [
  ['127.0.0.0', 8],
  ['10.0.0.0', 8],
  ['172.16.0.0', 12],
  ['192.168.0.0', 16],
  ['169.254.0.0', 16],
  ['100.64.0.0', 10],
] as const)
  near.addSubnet(net, bits, 'ipv4');
near.addAddress('::1', 'ipv6');
near.addSubnet('fc00::', 7, 'ipv6');
near.addSubnet('fe80::', 10, 'ipv6');

export const isNear = (ip: string): boolean => near.check(ip, isIP(ip) === 6 ? 'ipv6' : 'ipv4');

/**
 * @param allowed names and addresses that the settings let machines have besides
 * @returns the address to speak to, or why there is none
 */
export async function addressOf(host: string, allowed: readonly string[]): Promise<string | 'forbidden' | 'unknown'> {
  const name = host.toLowerCase();
  let ips: string[];
  try {
    ips = isIP(name) !== 0 ? [name] : (await lookup(name, { all: true })).map(({ address }) => address);
  } catch {
    return 'unknown';
  }
  const ip = ips.find((one) => isNear(one) || allowed.includes(name) || allowed.includes(one));
  return ip ?? (ips.length > 0 ? 'forbidden' : 'unknown');
}
