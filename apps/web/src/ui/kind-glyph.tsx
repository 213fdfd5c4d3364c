import type { ItemKind } from '@stem-trace/core';
import { Blocks, Box, Boxes, FileText, MessageCircleQuestion, Ruler, Wrench } from 'lucide-react';
import { colour } from './theme.js';

const KINDS: Readonly<Record<ItemKind, typeof Box>> = {
  part: Box,
  assembly: Boxes,
  drawing: Ruler,
  document: FileText,
  bill: Blocks,
  request: MessageCircleQuestion,
  order: Wrench,
};

/** What kind of item it is, in a picture and in words. */
export function KindGlyph({ kind }: { readonly kind: ItemKind }): React.JSX.Element {
  const Icon = KINDS[kind];
  return <Icon size={15} color={colour.inkSoft} role="img" aria-label={kind} style={{ flex: 'none' }} />;
}
