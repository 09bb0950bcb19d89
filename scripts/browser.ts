import { fileURLToPath } from 'node:url';
import { chromium, type Browser, type BrowserContext, type BrowserContextOptions } from '@playwright/test';

/** What the microphone of Chromium hears. */
export const voiceFile = fileURLToPath(new URL('../.cache/voice.wav', import.meta.url));

/**
 * What of Chromium is left out. Its address bar is a page of its own that each window loads, though a window without a screen
 * shows none: that took more of the processor than the application. The rest is what Playwright leaves out: of two such
 * switches the last one counts.
 */
const withoutFeatures = [
  ...['WebUIOmniboxPopup', 'WebUIOmniboxAimPopup', 'WebUIOmniboxFullPopup', 'AimEnabled', 'LensOverlay', 'MediaRouter'],
  ...['AvoidCorsURLLoaderRestartOnRedirect', 'AvoidUnnecessaryBeforeUnloadCheckSync', 'DestroyProfileOnBrowserClose'],
  ...['HttpsFirstBalancedModeAutoEnable', 'HttpsUpgrades', 'NetworkTimeServiceQuerying', 'OptimizationHints'],
  ...['PaintHolding', 'PreconnectToSearch', 'ThirdPartyStoragePartitioning'],
];

/** What Debian's Chromium is started with: no network of its own, sound without a device. */
export const chromiumArgs = [
  '--no-sandbox',
  '--disable-gpu',
  '--disable-quic',
  '--no-first-run',
  '--disable-background-networking',
  '--disable-component-update',
  '--disable-sync',
  `--disable-features=${withoutFeatures.join(',')}`,
  '--autoplay-policy=no-user-gesture-required',
  '--mute-audio',
  // Playwright asks for the source of each request: else the whole of the page is parsed a second time for it.
  '--js-flags=--no-enable-lazy-source-positions',
  '--use-fake-device-for-media-stream',
  `--use-file-for-fake-audio-capture=${voiceFile}`,
];

export const chromiumPath = process.env.CHROMIUM ?? '/usr/bin/chromium';

/** Starts Debian's Chromium without a window. */
export function launch(): Promise<Browser> {
  return chromium.launch({ executablePath: chromiumPath, args: chromiumArgs });
}

/** The same with a profile of its own, which stays in the folder. */
export function launchIn(folder: string, options: BrowserContextOptions = {}): Promise<BrowserContext> {
  const viewport = { width: 1280, height: 800 };
  return chromium.launchPersistentContext(folder, {
    executablePath: chromiumPath,
    args: chromiumArgs,
    viewport,
    reducedMotion: 'reduce',
    ...options,
  });
}
