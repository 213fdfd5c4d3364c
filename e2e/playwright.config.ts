import { defineConfig } from '@playwright/test';

/** Debian's Chromium; nothing is downloaded. */
export default defineConfig({
  testDir: 'src',
  globalSetup: './src/application.setup.ts',
  workers: 1,
  timeout: 150_000,
  expect: { timeout: 10_000 },
  reporter: [['list']],
  use: {
    viewport: { width: 1280, height: 800 },
    colorScheme: 'light',
    locale: 'en-GB',
    // Recording every step costs a tenth of the time; wanted only while looking for a fault.
    trace: process.env.STEM_E2E_TRACE === undefined ? 'off' : 'retain-on-failure',
    launchOptions: {
      executablePath: '/usr/bin/chromium',
      args: [
        '--no-sandbox',
        '--use-gl=angle',
        '--use-angle=swiftshader',
        '--enable-unsafe-swiftshader',
        '--disable-quic',
        '--disable-background-networking',
        '--disable-component-update',
        '--disable-sync',
        '--no-first-run',
      ],
    },
  },
  projects: [
    { name: 'story', testMatch: '*.spec.ts' },
    { name: 'pictures', testMatch: 'pictures.ts' },
  ],
});
