/** Commands of the screen that is shown, which the box at the top offers by their words. */
import { shownWithScreen } from './shown-with-screen.js';

export interface ScreenCommand {
  readonly title: string;
  readonly run: () => void;
}

export const { useTold: useScreenCommands, useAll: useOfferedCommands } = shownWithScreen<ScreenCommand>();
