export type Theme = 'system' | 'light' | 'dark'

const KEY = 'evrel-theme'
const wish = window.matchMedia('(prefers-color-scheme: dark)')

export const chosenTheme = (): Theme => (localStorage.getItem(KEY) as Theme | null) ?? 'system'

/** Follows the system unless the user has chosen; kept in the browser too, so that the sign-in looks alike. */
export function applyTheme(theme: Theme = chosenTheme()): void {
  localStorage.setItem(KEY, theme)
  document.documentElement.classList.toggle('dark', theme === 'dark' || (theme === 'system' && wish.matches))
}

wish.addEventListener('change', () => applyTheme())
