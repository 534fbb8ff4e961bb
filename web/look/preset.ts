import { definePreset } from '@primeuix/themes'
import Aura from '@primeuix/themes/aura'

// The library's parts in our own tokens (look/tokens.css), light and dark alike.
const surface = Object.fromEntries(
  [0, 50, 100, 200, 300, 400, 500, 600, 700, 800, 900, 950].map((step) => [
    step,
    step < 300 ? 'var(--sheet)' : step < 600 ? 'var(--rule)' : 'var(--ink2)',
  ]),
)
const scheme = {
  surface,
  primary: {
    color: 'var(--spruce)',
    contrastColor: 'var(--on-spruce)',
    hoverColor: 'var(--spruce)',
    activeColor: 'var(--spruce)',
  },
  highlight: {
    background: 'var(--ember-l)',
    focusBackground: 'var(--ember-l)',
    color: 'var(--ink)',
    focusColor: 'var(--ink)',
  },
  text: { color: 'var(--ink)', hoverColor: 'var(--ink)', mutedColor: 'var(--ink2)', hoverMutedColor: 'var(--ink)' },
  content: {
    background: 'var(--sheet)',
    hoverBackground: 'var(--fold)',
    borderColor: 'var(--rule)',
    color: 'var(--ink)',
    hoverColor: 'var(--ink)',
  },
  formField: {
    background: 'var(--field)',
    borderColor: 'var(--edge)',
    hoverBorderColor: 'var(--ink2)',
    focusBorderColor: 'var(--spruce)',
    color: 'var(--ink)',
    placeholderColor: 'var(--ink2)',
    shadow: 'none',
  },
  overlay: {
    modal: { background: 'var(--sheet)', borderColor: 'var(--rule)', color: 'var(--ink)' },
    select: { background: 'var(--sheet)', borderColor: 'var(--rule)', color: 'var(--ink)' },
    popover: { background: 'var(--sheet)', borderColor: 'var(--rule)', color: 'var(--ink)' },
  },
}

export const preset = definePreset(Aura, {
  semantic: {
    focusRing: { width: '3px', style: 'solid', color: 'var(--focus)', offset: '1px' },
    formField: { borderRadius: '6px', paddingX: '10px', paddingY: '7px' },
    colorScheme: { light: scheme, dark: scheme },
  },
})
