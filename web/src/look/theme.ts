import { createTheme, type CSSVariablesResolver, type MantineColorsTuple } from '@mantine/core';

/** Warm: what will change. */
const ember: MantineColorsTuple = [
  '#fdf1e9',
  '#f8dfcf',
  '#efbd9d',
  '#e59967',
  '#dc7a3c',
  '#cc6426',
  '#b4501e',
  '#964117',
  '#783412',
  '#5a270d',
];
/** Cool: what is settled. */
const tide: MantineColorsTuple = [
  '#e8f4f5',
  '#d0e6e9',
  '#a1ced3',
  '#6fb3bb',
  '#469aa4',
  '#2c8490',
  '#1d6f7a',
  '#155a63',
  '#10474f',
  '#0a343a',
];
/** What went wrong. */
const rust: MantineColorsTuple = [
  '#fdeeee',
  '#f7d6d6',
  '#eeb0b1',
  '#e28587',
  '#d55f62',
  '#c64449',
  '#ad2f36',
  '#90242b',
  '#721b21',
  '#541318',
];

/** One theme for every screen: small radius, close spacing, a humanist sans for words and a mono for values. */
export const theme = createTheme({
  fontFamily: "'Atkinson Hyperlegible Next Variable', system-ui, sans-serif",
  fontFamilyMonospace: "'Atkinson Hyperlegible Mono Variable', ui-monospace, monospace",
  headings: { fontFamily: "'Atkinson Hyperlegible Next Variable', system-ui, sans-serif", fontWeight: '650' },
  fontSizes: { xs: '12px', sm: '13.5px', md: '15px', lg: '17px', xl: '21px' },
  defaultRadius: 3,
  colors: { ember, tide, rust },
  primaryColor: 'tide',
  primaryShade: 6,
  autoContrast: true,
  cursorType: 'pointer',
  components: {
    Button: { defaultProps: { size: 'xs' } },
    TextInput: { defaultProps: { size: 'xs' } },
    NumberInput: { defaultProps: { size: 'xs' } },
    Checkbox: { defaultProps: { size: 'xs' } },
    Autocomplete: { defaultProps: { size: 'xs', comboboxProps: { shadow: 'md' } } },
    Textarea: { defaultProps: { size: 'xs' } },
    NativeSelect: { defaultProps: { size: 'xs' } },
    FileInput: { defaultProps: { size: 'xs' } },
    PasswordInput: { defaultProps: { size: 'xs' } },
    SegmentedControl: { defaultProps: { size: 'xs' } },
    Select: { defaultProps: { size: 'xs', allowDeselect: false, comboboxProps: { shadow: 'md' } } },
    MultiSelect: { defaultProps: { size: 'xs', comboboxProps: { shadow: 'md' } } },
    Popover: { defaultProps: { shadow: 'md', withArrow: false, trapFocus: true, returnFocus: true } },
    Tooltip: { defaultProps: { withArrow: false, openDelay: 300 } },
  },
});

export const variables: CSSVariablesResolver = () => ({
  variables: {},
  light: {
    '--mantine-color-body': '#f7f3ea',
    '--mantine-color-text': '#25272b',
    '--mantine-color-dimmed': '#625f57',
    '--mantine-color-default': '#fffdf8',
    '--mantine-color-default-border': '#d6cebd',
  },
  dark: {
    '--mantine-color-body': '#1a1c1e',
    '--mantine-color-text': '#e8e4da',
    '--mantine-color-dimmed': '#a8a396',
    '--mantine-color-default': '#24272a',
    '--mantine-color-default-border': '#43474b',
  },
});
