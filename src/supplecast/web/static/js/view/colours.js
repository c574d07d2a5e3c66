// The colours of lines in the view: over its ground by light and by dark, over bodies always dark.

import { Color } from 'three';

const theme = globalThis.document?.documentElement.dataset.theme ?? 'light'; // light where there is no page
const DARK = theme === 'dark' || (theme === 'system' && matchMedia('(prefers-color-scheme: dark)').matches);

export const EDGE = new Color('#12211F');
export const INK = DARK ? new Color('#E4ECEA') : EDGE;
export const AMBER = new Color('#F2A100');
export const PETROL = new Color(DARK ? '#6FCAC0' : '#0B5D5B');
