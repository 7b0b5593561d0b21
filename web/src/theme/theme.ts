import {
  createTheme,
  type CheckboxProps,
  type MenuProps,
  type ModalProps,
  type PopoverProps,
  type RadioProps,
  type SegmentedControlProps,
  type SelectProps,
  type SliderProps,
  type SwitchProps,
  type TextInputProps,
  type TooltipProps,
  type MantineColorsTuple,
  type NativeSelectProps,
  type NotificationProps,
} from "@mantine/core";
import css from "./controls.module.css";

interface Styled<Props> {
  defaultProps?: Partial<Props>;
  classNames?: Record<string, string | undefined>;
}

/** How a control is made here; by its properties alone, so that naming it does not load it. */
const styled = <Props>(style: Styled<Props>) => style;

const shades = (...colours: string[]) => colours as unknown as MantineColorsTuple;

/** Drawing paper, ink and three signal colours; see product words: settled, look, stop. Every control is styled here, once. */
export const theme = createTheme({
  fontFamily: "Barlow, sans-serif",
  fontFamilyMonospace: "'IBM Plex Mono', monospace",
  headings: { fontFamily: "'Barlow Condensed', sans-serif", fontWeight: "600" },
  defaultRadius: 0,
  primaryColor: "ink",
  primaryShade: { light: 8, dark: 1 },
  autoContrast: true,
  colors: {
    ink: shades(
      "#F6F3EC",
      "#E7E2D6",
      "#C9C2B4",
      "#A39C8D",
      "#7F796C",
      "#6B6659",
      "#4B4A47",
      "#33353A",
      "#22262B",
      "#15181B",
    ),
    verdigris: shades(
      "#EAF4F2",
      "#CFE5E1",
      "#A6CFC8",
      "#7BB7AE",
      "#559F95",
      "#2F7F74",
      "#286F65",
      "#215D55",
      "#1A4A44",
      "#123632",
    ),
    vermilion: shades(
      "#FBEBE7",
      "#F2CEC6",
      "#E6A396",
      "#D97865",
      "#CB553E",
      "#B83A24",
      "#A3321E",
      "#872919",
      "#6B2013",
      "#4C160D",
    ),
  },
  black: "#22262B",
  white: "#FFFFFF",
  components: {
    Select: styled<SelectProps>({
      defaultProps: {
        size: "xs",
        allowDeselect: false,
        withCheckIcon: false,
        comboboxProps: { shadow: undefined, offset: 1 },
      },
      classNames: { input: css.input, section: css.section, dropdown: css.dropdown, option: css.option },
    }),
    Checkbox: styled<CheckboxProps>({
      defaultProps: { size: "xs" },
      classNames: { root: css.tick, body: css.body, input: css.box, icon: css.check, label: css.label },
    }),
    Radio: styled<RadioProps>({
      defaultProps: { size: "xs" },
      classNames: { root: css.tick, body: css.body, radio: css.radio, icon: css.dot, label: css.label },
    }),
    SegmentedControl: styled<SegmentedControlProps>({
      defaultProps: { size: "xs", fullWidth: true, transitionDuration: 0 },
      classNames: { root: css.segments, control: css.segment, label: css.segmentLabel, indicator: css.indicator },
    }),
    Slider: styled<SliderProps>({
      defaultProps: { size: 2, label: null },
      classNames: { root: css.slider, track: css.track, bar: css.bar, thumb: css.thumb },
    }),
    Switch: styled<SwitchProps>({ defaultProps: { size: "xs", color: "ink" }, classNames: { label: css.label } }),
    NativeSelect: styled<NativeSelectProps>({
      defaultProps: { size: "xs" },
      classNames: { input: css.input, section: css.section },
    }),
    TextInput: styled<TextInputProps>({ defaultProps: { size: "xs" }, classNames: { input: css.input } }),
    Menu: styled<MenuProps>({
      defaultProps: { shadow: undefined },
      classNames: { dropdown: css.dropdown, item: css.option },
    }),
    Tooltip: styled<TooltipProps>({
      defaultProps: { withArrow: false, openDelay: 300, events: { hover: true, focus: true, touch: true } },
      classNames: { tooltip: css.tip },
    }),
    Modal: styled<ModalProps>({
      defaultProps: {
        centered: true,
        transitionProps: { duration: 0 },
        overlayProps: { backgroundOpacity: 0.45, color: "var(--shade)" },
        closeButtonProps: { "aria-label": "Close" },
        // The head of a dialog is no banner of the page.
        attributes: { header: { role: "presentation" } },
      },
      classNames: { content: css.sheet, header: css.sheetHead, title: css.sheetTitle, close: css.close },
    }),
    Notification: styled<NotificationProps>({ classNames: { root: css.note, description: css.noteText } }),
    Popover: styled<PopoverProps>({ classNames: { dropdown: css.dropdown } }),
  },
});
