/** The find box as somewhere to go back to, for whatever does not hold it. */
let focusBox: () => void = () => undefined;

export function setFindBox(focus: () => void): void {
  focusBox = focus;
}

export function goToFindBox(): void {
  focusBox();
}
