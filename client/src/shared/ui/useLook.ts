import { useLocalStorage, usePreferredDark } from '@vueuse/core'
import { darkTheme, type GlobalThemeOverrides } from 'naive-ui'
import { computed, watchEffect } from 'vue'
import { dark, light, type Tokens } from './tokens'

export type Theme = 'system' | 'light' | 'dark'

/** How this person wants to see it, kept on this computer: light or dark or as the system has it, how close rows stand, how large letters are. */
const theme = useLocalStorage<Theme>('theme', 'system')
const dense = useLocalStorage('dense', true)
const percent = useLocalStorage('letters', 100)
const systemIsDark = usePreferredDark()
const isDark = computed(() => (theme.value === 'system' ? systemIsDark.value : theme.value === 'dark'))
const tokens = computed<Tokens>(() => (isDark.value ? dark : light))

/** The library's controls in our colours, fonts and heights. */
const overrides = computed<GlobalThemeOverrides>(() => {
  const t = tokens.value
  const flat = { boxShadow2: '0 4px 14px #0002' }
  return {
    common: {
      ...flat,
      fontFamily: 'var(--sans)',
      fontFamilyMono: 'var(--mono)',
      fontSize: '14px',
      fontSizeMini: '12px',
      fontSizeTiny: '12.5px',
      fontSizeSmall: '12.5px',
      fontSizeMedium: '14px',
      fontSizeLarge: '14px',
      lineHeight: '1.4',
      heightTiny: '24px',
      heightSmall: dense.value ? '24px' : '28px',
      heightMedium: dense.value ? '29px' : '34px',
      borderRadius: '7px',
      borderRadiusSmall: '5px',
      primaryColor: t.russet,
      primaryColorHover: t['russet-deep'],
      primaryColorPressed: t['russet-deep'],
      primaryColorSuppl: t.russet,
      infoColor: t.plum,
      infoColorHover: t.plum,
      infoColorPressed: t.plum,
      infoColorSuppl: t.plum,
      successColor: t.moss,
      successColorHover: t.moss,
      successColorPressed: t.moss,
      successColorSuppl: t.moss,
      warningColor: t.amber,
      warningColorHover: t.amber,
      warningColorPressed: t.amber,
      warningColorSuppl: t.amber,
      errorColor: t.crimson,
      errorColorHover: t.crimson,
      errorColorPressed: t.crimson,
      errorColorSuppl: t.crimson,
      textColorBase: t.ink,
      textColor1: t.ink,
      textColor2: t.ink,
      textColor3: t['ink-2'],
      textColorDisabled: t['ink-2'],
      placeholderColor: t['ink-2'],
      placeholderColorDisabled: t['ink-2'],
      iconColor: t['ink-2'],
      bodyColor: t.paper,
      cardColor: t.sheet,
      modalColor: t.sheet,
      popoverColor: t.sheet,
      inputColor: t.sheet,
      inputColorDisabled: t.sunk,
      tableColor: t.sheet,
      tableHeaderColor: t.sheet,
      tableColorHover: t.sunk,
      hoverColor: t.sunk,
      borderColor: t.rule,
      dividerColor: t.rule,
      railColor: t.sunk,
      opacityDisabled: '0.6',
    },
    Button: {
      fontWeight: '600',
      textColorPrimary: t['on-russet'],
      textColorHoverPrimary: t['on-russet'],
      textColorPressedPrimary: t['on-russet'],
      textColorFocusPrimary: t['on-russet'],
      textColorDisabledPrimary: t['on-russet'],
      border: `1px solid ${t.rule}`,
      color: t.sheet,
      colorHover: t.sheet,
      colorPressed: t.sunk,
      colorFocus: t.sheet,
      borderHover: `1px solid ${t.edge}`,
      borderFocus: `1px solid ${t.edge}`,
      borderPressed: `1px solid ${t.edge}`,
      textColorHover: t.ink,
      textColorFocus: t.ink,
      textColorPressed: t.ink,
      paddingMedium: '0 12px',
      paddingSmall: '0 8px',
      rippleDuration: '0s',
    },
    Input: {
      border: `1px solid ${t.rule}`,
      borderHover: `1px solid ${t.edge}`,
      borderFocus: `1px solid ${t.plum}`,
      boxShadowFocus: `0 0 0 1px ${t.plum}`,
      paddingMedium: '8px',
      paddingSmall: '6px',
      caretColor: t.ink,
    },
    InternalSelection: {
      border: `1px solid ${t.rule}`,
      borderHover: `1px solid ${t.edge}`,
      borderActive: `1px solid ${t.plum}`,
      borderFocus: `1px solid ${t.plum}`,
      boxShadowActive: `0 0 0 1px ${t.plum}`,
      boxShadowFocus: `0 0 0 1px ${t.plum}`,
      caretColor: t.ink,
      paddingSingle: '0 26px 0 8px',
    },
    InternalSelectMenu: {
      optionTextColorActive: t.plum,
      optionCheckColor: t.plum,
      optionColorActive: t['plum-soft'],
      optionColorPending: t.sunk,
      optionColorActivePending: t['plum-soft'],
      optionFontSizeMedium: '14px',
      optionPaddingMedium: '0 10px',
    },
    Checkbox: {
      colorChecked: t.plum,
      borderChecked: `1px solid ${t.plum}`,
      borderFocus: `1px solid ${t.plum}`,
      boxShadowFocus: `0 0 0 2px ${t.plum}`,
      border: `1px solid ${t.edge}`,
      checkMarkColor: t.sheet,
    },
    Radio: {
      buttonColorActive: t.sheet,
      buttonTextColorActive: t.ink,
      buttonTextColorHover: t.ink,
      buttonColor: t.sunk,
      buttonBorderColor: t.rule,
      buttonBorderColorActive: t.edge,
      buttonBoxShadowFocus: `inset 0 0 0 2px ${t.plum}`,
      dotColorActive: t.plum,
      boxShadowActive: `inset 0 0 0 1px ${t.plum}`,
    },
    Switch: { railColorActive: t.plum },
    Tag: {
      borderRadius: '999px',
      border: `1px solid ${t.rule}`,
      color: t.sheet,
      fontSizeSmall: '12.5px',
      heightSmall: '22px',
      padding: '0 9px',
      textColor: t.ink,
      colorBordered: t.sheet,
      colorBorderedInfo: t['plum-soft'],
      colorBorderedSuccess: t['moss-soft'],
      colorBorderedWarning: t['amber-soft'],
      colorBorderedError: t['crimson-soft'],
      colorInfo: t['plum-soft'],
      colorSuccess: t['moss-soft'],
      colorWarning: t['amber-soft'],
      colorError: t['crimson-soft'],
      textColorInfo: t.plum,
      textColorSuccess: t.moss,
      textColorWarning: t.amber,
      textColorError: t.crimson,
      borderInfo: 'none',
      borderSuccess: 'none',
      borderWarning: 'none',
      borderError: 'none',
    },
    DataTable: {
      thPaddingSmall: '5px 8px',
      tdPaddingSmall: dense.value ? '3px 8px' : '6px 8px',
      thColor: t.sheet,
      thColorHover: t.sunk,
      thTextColor: t['ink-2'],
      thFontWeight: '500',
      tdColorHover: t.sunk,
      fontSizeSmall: '14px',
      borderRadius: '10px',
      sorterSize: '12px',
      thIconColor: t['ink-2'],
    },
    Table: {
      thPaddingSmall: '5px 10px',
      tdPaddingSmall: dense.value ? '4px 10px' : '7px 10px',
      thColor: t.sheet,
      thTextColor: t['ink-2'],
      thFontWeight: '500',
      fontSizeSmall: '14px',
      borderRadius: '10px',
    },
    Dropdown: { optionColorHover: t.sunk, fontSizeMedium: '14px', optionHeightMedium: '30px' },
    Menu: { itemTextColorActive: t.plum },
    Modal: { color: t.sheet },
    Tooltip: { color: t.bar, textColor: t['on-bar'], padding: '5px 9px' },
    Progress: { fillColor: t.plum, railColor: t.sunk },
    DatePicker: { itemColorActive: t.plum, itemTextColorCurrent: t.plum, itemColorHover: t.sunk },
    TimePicker: { itemTextColorActive: t.plum },
    Collapse: { titleFontWeight: '600', titleFontSize: '14px', titlePadding: '8px 0 0 0', itemMargin: '4px 0 0 0' },
    Message: { color: t.sheet, colorSuccess: t.sheet, colorError: t.sheet },
    Steps: { indicatorColorProcess: t.plum, indicatorBorderColorProcess: t.plum },
  }
})

let applied = false
export function useLook() {
  if (!applied) {
    applied = true
    watchEffect(() => {
      const root = document.documentElement
      root.dataset.theme = isDark.value ? 'dark' : 'light'
      root.style.colorScheme = isDark.value ? 'dark' : 'light'
      root.style.zoom = String(percent.value / 100)
      for (const [name, colour] of Object.entries(tokens.value)) root.style.setProperty(`--${name}`, colour)
    })
  }
  return { theme, dense, percent, isDark, overrides, library: computed(() => (isDark.value ? darkTheme : null)) }
}
