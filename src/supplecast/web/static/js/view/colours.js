// The colours of lines in the view.

import { Color } from 'three';

export const INK = new Color('#12211F');
export const AMBER = new Color('#F2A100');
export const PETROL = new Color('#0B5D5B');
