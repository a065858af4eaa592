import { EditorView } from '@codemirror/view';
import { faces, tokens } from '../../app/tokens.ts';

const { floor, line, row, raise, text, bone, dim, amber, coral, select } = tokens;

/** The Score in the inks of Estela: amber moves, bone stands, coral is broken. */
export const scoreTheme = EditorView.theme(
  {
    '&': { backgroundColor: floor, color: text, fontSize: '12.5px' },
    '.cm-scroller': { fontFamily: faces.figures, lineHeight: '21px' },
    '.cm-content': { padding: '8px 0', caretColor: text },
    '.cm-line': { padding: '0 12px 0 8px' },
    '&.cm-focused': { outline: 'none' },
    '.cm-cursor': { borderLeftColor: text },
    '.cm-gutters': { backgroundColor: floor, color: dim, border: 'none', paddingLeft: '4px' },
    '.cm-lineNumbers .cm-gutterElement': { fontSize: '11px', minWidth: '26px' },
    '.cm-activeLine': { backgroundColor: 'rgba(52, 50, 45, 0.55)' },
    '.cm-activeLineGutter': { backgroundColor: select },
    '&.cm-focused > .cm-scroller > .cm-selectionLayer .cm-selectionBackground, .cm-selectionBackground': { backgroundColor: '#4a463c' },
    '.cm-selectionMatch': { backgroundColor: raise },
    '.cm-word': { color: dim },
    '.cm-moves': { color: amber },
    '.cm-number': { textDecoration: `underline dotted ${dim}`, textUnderlineOffset: '4px' },
    '.cm-text': { color: bone },
    '.cm-note': { color: dim, fontStyle: 'italic' },
    '.cm-off': { opacity: '0.75', textDecoration: 'line-through' },
    '.cm-swatch': { display: 'inline-block', width: '9px', height: '9px', marginRight: '4px', border: `1px solid ${line}`, borderRadius: '2px' },
    '.cm-lintRange-error': { backgroundImage: 'none', textDecoration: `underline wavy ${coral}`, textUnderlineOffset: '4px' },
    '.cm-lintRange-warning': { backgroundImage: 'none', textDecoration: `underline wavy ${bone}`, textUnderlineOffset: '4px' },
    '.cm-tooltip': { backgroundColor: raise, border: `1px solid ${line}`, borderRadius: '3px', color: text, fontFamily: faces.interface, fontSize: '13px' },
    '.cm-tooltip.cm-tooltip-autocomplete > ul': { fontFamily: faces.interface, maxHeight: '260px' },
    '.cm-tooltip.cm-tooltip-autocomplete > ul > li': { padding: '3px 10px', lineHeight: '20px' },
    '.cm-tooltip-autocomplete ul li[aria-selected]': { backgroundColor: select, color: text },
    '.cm-completionLabel': { fontFamily: faces.figures, fontSize: '12.5px' },
    '.cm-completionMatchedText': { textDecoration: 'none', color: bone, fontWeight: '500' },
    '.cm-completionDetail': { color: dim, fontStyle: 'normal', marginLeft: '10px' },
    '.cm-completionInfo': { maxWidth: '340px', padding: '6px 10px' },
    '.cm-diagnostic': { padding: '4px 10px', borderLeft: 'none', maxWidth: '480px' },
    '.cm-diagnosticAction': { backgroundColor: row, color: text, border: `1px solid ${line}`, borderRadius: '3px', padding: '2px 8px', font: 'inherit' },
    '.cm-panels': { backgroundColor: row, color: text, borderColor: line },
    '.cm-panel input, .cm-panel button': {
      backgroundColor: floor,
      color: text,
      backgroundImage: 'none',
      border: `1px solid ${line}`,
      borderRadius: '3px',
      fontFamily: faces.interface,
      fontSize: '13px',
    },
    '.cm-matchingBracket': { backgroundColor: raise },
  },
  { dark: true },
);
