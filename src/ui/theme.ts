import { theme } from 'antd';
import type { ThemeConfig } from 'antd';

export type Look = 'light' | 'dark';

const INK = {
  light: {
    paper: '#f5f1e8',
    sheet: '#fffdf7',
    ink: '#1d1a17',
    soft: '#5f574f',
    line: '#dcd3c4',
    faint: '#ece5d8',
    root: '#5b2a6e',
    onRoot: '#fffdf7',
    wait: '#855600',
    bad: '#a8341b',
    stock: '#4d5b63',
  },
  dark: {
    paper: '#191714',
    sheet: '#211e1a',
    ink: '#f1ebe0',
    soft: '#b3a99b',
    line: '#3d3730',
    faint: '#2a2621',
    root: '#c79adb',
    onRoot: '#1d1221',
    wait: '#e0a94a',
    bad: '#f08a6d',
    stock: '#a9b8c0',
  },
} as const;

/**
 * Ant Design under our own ink and paper; the same values stand in tokens.css for what is not an Ant Design
 * part.
 */
export function themeFor(look: Look): ThemeConfig {
  const c = INK[look];
  return {
    cssVar: { key: 'eterno' },
    hashed: false,
    algorithm: look === 'dark' ? theme.darkAlgorithm : theme.defaultAlgorithm,
    token: {
      colorPrimary: c.root,
      colorInfo: c.stock,
      colorWarning: c.wait,
      colorError: c.bad,
      colorSuccess: c.root,
      colorLink: c.ink,
      colorLinkHover: c.root,
      colorText: c.ink,
      colorTextSecondary: c.soft,
      colorTextTertiary: c.soft,
      colorTextDescription: c.soft,
      colorBgElevated: c.sheet,
      colorTextPlaceholder: c.soft,
      colorBgBase: c.sheet,
      colorBgLayout: c.paper,
      colorBgContainer: c.sheet,
      colorBorder: c.line,
      colorBorderSecondary: c.line,
      colorTextLightSolid: c.onRoot,
      fontFamily: "'Atkinson Hyperlegible Next Variable', sans-serif",
      fontFamilyCode: "'Atkinson Hyperlegible Mono Variable', monospace",
      fontSize: 14,
      borderRadius: 3,
      borderRadiusLG: 3,
      controlHeight: 32,
      boxShadow: 'none',
      boxShadowSecondary: `0 6px 24px ${look === 'dark' ? '#0009' : '#1d1a1722'}`,
      wireframe: true,
      motionDurationMid: '0.12s',
    },
    components: {
      Button: {
        fontWeight: 600,
        primaryShadow: 'none',
        defaultShadow: 'none',
        dangerShadow: 'none',
        defaultBorderColor: c.ink,
        defaultBg: 'transparent',
      },
      Input: { activeShadow: 'none' },
      Drawer: { paddingLG: 20 },
      Progress: { defaultColor: c.root, remainingColor: c.faint, lineBorderRadius: 0 },
      Table: {
        headerBg: 'transparent',
        headerColor: c.soft,
        headerSplitColor: 'transparent',
        cellPaddingBlockSM: 4,
        cellPaddingInlineSM: 8,
      },
    },
  };
}
