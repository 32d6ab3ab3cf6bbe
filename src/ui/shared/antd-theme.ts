import { type ThemeConfig, theme } from "antd";
import { palettes, type ThemeName } from "./palette";

/** The fonts by what they are for. */
export const fonts = {
  text: "'Atkinson Hyperlegible Next Variable', sans-serif",
  reading: "'Bricolage Grotesque Variable', sans-serif",
  code: "'JetBrains Mono Variable', monospace",
};

/** Ant Design in the colours, corners and type of the bench. */
export function antdTheme(name: ThemeName): ThemeConfig {
  const colours = palettes[name];
  return {
    algorithm: name === "dark" ? theme.darkAlgorithm : theme.defaultAlgorithm,
    // under a name for each: those of the theme that the page came with would else stay
    cssVar: { key: `finch-${name}` },
    token: {
      colorPrimary: colours.wing,
      colorInfo: colours.wing,
      colorLink: colours.wing,
      colorSuccess: colours.good,
      colorWarning: colours.caution,
      colorError: colours.bad,
      colorText: colours.ink,
      colorTextSecondary: colours.quiet,
      colorTextPlaceholder: colours.quiet,
      colorTextDescription: colours.quiet,
      colorBgBase: colours.sheet,
      colorBgContainer: colours.sheet,
      colorBgElevated: colours.sheet,
      colorBgLayout: colours.ground,
      colorBorder: colours.line,
      colorBorderSecondary: colours.rule,
      borderRadius: 2,
      borderRadiusLG: 2,
      borderRadiusSM: 2,
      borderRadiusXS: 2,
      boxShadow: "none",
      boxShadowSecondary: `0 0 0 1px ${colours.ink}`,
      boxShadowTertiary: "none",
      fontFamily: fonts.text,
      fontFamilyCode: fonts.code,
      fontSize: 14,
      controlHeight: 32,
      controlOutlineWidth: 2,
      motion: false,
    },
    components: {
      Button: {
        colorPrimary: colours.finch,
        colorPrimaryHover: colours.finch,
        colorPrimaryActive: colours.finch,
        primaryColor: colours["on-finch"],
        primaryShadow: "none",
        defaultShadow: "none",
        dangerShadow: "none",
        defaultBorderColor: colours.ink,
        defaultColor: colours.ink,
        defaultHoverBorderColor: colours.wing,
        defaultHoverColor: colours.wing,
        defaultBg: "transparent",
        fontWeight: 600,
      },
      Modal: { titleFontSize: 16 },
    },
  };
}
