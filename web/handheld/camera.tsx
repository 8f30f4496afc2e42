/** Scanning by the device's camera. */
export function CameraScan(_: { onScan: (code: string) => void }) {
  return null;
}
