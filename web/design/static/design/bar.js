// The bar's shape: broken where it fails, else as thick at its middle as the margin.
export function barPath(state, margin) {
  const half = 2 + 11 * Math.min(Math.max(margin, 0) / 0.5, 1) ** 0.8;
  const [top, foot] = [14 - half, 14 + half];
  return state === "fails"
    ? "M0 2H80C100 2 96 12 112 12L108 14L114 16C96 16 100 26 80 26H0Z" +
        "M240 2H160C140 2 144 12 130 12L126 14L132 16C144 16 140 26 160 26H240Z"
    : `M0 1H70C100 1 90 ${top} 120 ${top}C150 ${top} 140 1 170 1H240V27H170` +
        `C140 27 150 ${foot} 120 ${foot}C90 ${foot} 100 27 70 27H0Z`;
}
