import { createSystem, defaultConfig, defineConfig } from '@chakra-ui/react'

/** Drafting paper and ink by day, slate by night; each colour is named after its role. */
const roles = {
  paper: ['#F2EDE3', '#1B1E23'],
  card: ['#FBF8F2', '#24282F'],
  raised: ['#FFFFFF', '#2E333B'],
  ink: ['#1E2530', '#EFEAE0'],
  soft: ['#5C6472', '#A9AFBA'],
  rule: ['#D9D1C1', '#3C424C'],
  surround: ['#3C3D40', '#303134'],
  onSurround: ['#F4F1EA', '#F4F1EA'],
  now: ['#C9381C', '#FF7A5C'],
  selected: ['#0B7A82', '#4FC3CB'],
  selectedInk: ['#086169', '#6AD3DA'],
  selectedWash: ['#DDEDEC', '#1F3D41'],
  onSelected: ['#FFFFFF', '#10272A'],
  key: ['#E0A11B', '#F0B63C'],
  keyInk: ['#7A5200', '#F0B63C'],
  sound: ['#6A4A9C', '#B49BE0'],
  skyTop: ['#E7EEEC', '#1E2528'],
  danger: ['#A32A12', '#FF9C85'],
} as const

export const system = createSystem(
  defaultConfig,
  defineConfig({
    globalCss: {
      'html, body, #root': { height: '100%', margin: 0 },
      body: { bg: 'paper', color: 'ink', fontFamily: 'body', fontSize: '13px', lineHeight: 1.4, overflow: 'hidden' },
      // Parts of the library bring fainter rings of their own.
      '*:focus-visible': { outline: '2px solid {colors.selected} !important', outlineOffset: '1px' },
      '*, *::before, *::after': {
        _motionReduce: { animationDuration: '0.01ms !important', transitionDuration: '0.01ms !important' },
      },
      '.figures': { fontVariantNumeric: 'tabular-nums', fontFeatureSettings: '"tnum"' },
    },
    theme: {
      tokens: {
        fonts: {
          body: { value: "'Figtree Variable', sans-serif" },
          heading: { value: "'Bricolage Grotesque Variable', sans-serif" },
        },
        radii: { soft: { value: '6px' } },
      },
      semanticTokens: {
        colors: Object.fromEntries(
          Object.entries(roles).map(([name, [light, dark]]) => [name, { value: { _light: light, _dark: dark } }]),
        ),
      },
    },
  }),
)

/** A role's colour for SVG, which follows the theme by itself. */
export function roleColour(name: keyof typeof roles): string {
  return `var(--chakra-colors-${name.replace(/[A-Z]/g, (letter) => `-${letter.toLowerCase()}`)})`
}

type Theme = 'light' | 'dark'

export function applyTheme(theme: Theme): void {
  document.documentElement.classList.remove('light', 'dark')
  document.documentElement.classList.add(theme)
  localStorage.setItem('theme', theme)
}

export function rememberedTheme(): Theme {
  return localStorage.getItem('theme') === 'dark' ? 'dark' : 'light'
}
