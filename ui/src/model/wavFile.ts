// Sound as a WAV file, 24 bits: what a microphone gave, as it came.

const bytesASample = 3;
const most = 2 ** 23;

/** A file of blocks of channels, one after another, at a rate in Hz. */
export function encodeWAV(
  blocks: readonly (readonly Float32Array[])[],
  channels: number,
  rate: number,
): ArrayBuffer {
  const frames = blocks.reduce((n, b) => n + (b[0]?.length ?? 0), 0);
  const size = frames * channels * bytesASample;
  const out = new ArrayBuffer(44 + size + (size % 2));
  const view = new DataView(out);
  const text = (at: number, s: string) => {
    for (let i = 0; i < s.length; i++) view.setUint8(at + i, s.charCodeAt(i));
  };
  text(0, 'RIFF');
  view.setUint32(4, out.byteLength - 8, true);
  text(8, 'WAVEfmt ');
  view.setUint32(16, 16, true);
  view.setUint16(20, 1, true);
  view.setUint16(22, channels, true);
  view.setUint32(24, rate, true);
  view.setUint32(28, rate * channels * bytesASample, true);
  view.setUint16(32, channels * bytesASample, true);
  view.setUint16(34, 8 * bytesASample, true);
  text(36, 'data');
  view.setUint32(40, size, true);
  let at = 44;
  for (const block of blocks) {
    const n = block[0]?.length ?? 0;
    for (let i = 0; i < n; i++)
      for (let c = 0; c < channels; c++) {
        const v = Math.round((block[c]?.[i] ?? 0) * most);
        const clamped = Math.min(most - 1, Math.max(-most, v));
        view.setUint8(at, clamped & 0xff);
        view.setUint8(at + 1, (clamped >> 8) & 0xff);
        view.setUint8(at + 2, (clamped >> 16) & 0xff);
        at += bytesASample;
      }
  }
  return out;
}
