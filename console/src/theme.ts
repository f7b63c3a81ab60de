// Naive UI in the looks of the house. The colours are read from the shared tokens, so that light and dark follow them.
import type { GlobalThemeOverrides } from 'naive-ui'

export function theme(): GlobalThemeOverrides {
  const style = getComputedStyle(document.documentElement)
  const token = (name: string) => style.getPropertyValue('--' + name).trim()
  const ruled = { border: `1px solid ${token('rule-strong')}` } // on dark paper, too, where fields have none of themselves
  return {
    common: {
      fontFamily: token('sans'),
      fontFamilyMono: token('mono'),
      fontSize: '15px',
      borderRadius: '2px',
      primaryColor: token('ink'),
      primaryColorHover: token('link'),
      primaryColorPressed: token('ink'),
      primaryColorSuppl: token('ink'),
      textColorBase: token('ink'),
      textColor1: token('ink'),
      textColor2: token('ink'),
      textColor3: token('ink-soft'),
      placeholderColor: token('ink-faint'),
      bodyColor: token('paper'),
      cardColor: token('sheet'),
      popoverColor: token('sheet'),
      inputColor: token('sheet'),
      borderColor: token('rule-strong'),
      errorColor: token('breaking'),
    },
    Button: { textColorPrimary: token('paper'), textColorHoverPrimary: token('paper'), textColorPressedPrimary: token('paper'), textColorFocusPrimary: token('paper') },
    Input: ruled,
    Select: { peers: { InternalSelection: ruled } },
  }
}
