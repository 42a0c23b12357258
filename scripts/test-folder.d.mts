export function chooseTestFolder(): void;
