import { theme as antd } from 'ant-design-vue';
import type { ThemeConfig } from 'ant-design-vue/es/config-provider/context';
import { palettes, type ThemeName } from './tokens';

/** The control library dressed in our tokens. */
export function antdTheme(name: ThemeName): ThemeConfig {
  const p = palettes[name];
  return {
    algorithm: name === 'dark' ? antd.darkAlgorithm : antd.defaultAlgorithm,
    token: {
      colorPrimary: p.amber,
      colorInfo: p.glass,
      colorSuccess: p.glass,
      colorWarning: p.amber,
      colorTextLightSolid: p.onAmber,
      colorLink: p.sky,
      colorError: p.coral,
      colorBgBase: p.bed,
      colorBgContainer: p.raft,
      colorBgElevated: p.raft2,
      colorTextBase: p.text,
      colorTextSecondary: p.mute,
      colorTextPlaceholder: p.mute,
      colorBorder: p.line,
      colorBorderSecondary: p.line,
      borderRadius: 6,
      controlHeight: 30,
      fontFamily: 'inherit',
      fontSize: 14,
      motionDurationMid: '0.1s',
      motionDurationSlow: '0.14s',
    },
    components: {
      // The dark algorithm would dull the one colour that has to stand out.
      // The one main action is amber; what is merely on is not.
      Radio: { colorPrimary: p.glass, colorPrimaryHover: p.glass, colorPrimaryActive: p.glass },
      Checkbox: { colorPrimary: p.glass, colorPrimaryHover: p.glass },
      Tooltip: { colorBgDefault: p.raft2, colorTextLightSolid: p.text },
      Button: { colorPrimary: p.amber, colorPrimaryHover: p.amber, colorPrimaryActive: p.amber, colorError: p.coral },
    },
  };
}
