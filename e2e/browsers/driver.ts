import { type ChildProcess, spawn } from 'node:child_process'

/** A browser as the journey uses it: a real hand, and a look into the page. */
export interface Driver {
  readonly version: string
  goto(url: string): Promise<void>
  /** Evaluates an expression in the page; a promise is waited for. What it gives goes through JSON. */
  evaluate<T>(expression: string): Promise<T>
  clickAt(x: number, y: number): Promise<void>
  /** Presses a key by its name, with Control held where it is asked for. */
  press(key: string, control?: boolean): Promise<void>
  close(): Promise<void>
}

const FLAGS = [
  '--no-sandbox',
  '--disable-gpu',
  '--no-first-run',
  '--disable-background-networking',
  '--autoplay-policy=no-user-gesture-required',
]

/** Chromium, current or older, by Playwright. */
export async function chromium(executablePath: string): Promise<Driver> {
  const { chromium: kind } = await import('playwright-core')
  const browser = await kind.launch({
    executablePath,
    args: [...FLAGS, '--headless=new'],
    ignoreDefaultArgs: ['--headless', '--mute-audio'],
  })
  const page = await browser.newPage({ viewport: { width: 1280, height: 800 } })
  // a picker of the system's own cannot be reached: files are saved as downloads
  await page.addInitScript(() => {
    Reflect.deleteProperty(window, 'showSaveFilePicker')
    Reflect.deleteProperty(window, 'showDirectoryPicker')
    Reflect.deleteProperty(window, 'showOpenFilePicker')
  })
  return {
    version: `Chromium ${browser.version()}`,
    goto: async (url) => {
      await page.goto(url)
    },
    evaluate: (expression) => page.evaluate(expression),
    clickAt: (x, y) => page.mouse.click(x, y),
    press: (key, control = false) => page.keyboard.press(`${control ? 'Control+' : ''}${key}`),
    close: () => browser.close(),
  }
}

/** Firefox, by WebDriver BiDi. It runs no audio clock without a device, so that a null sink must be there. */
export async function firefox(executablePath: string): Promise<Driver> {
  const { default: puppeteer } = await import('puppeteer-core')
  const browser = await puppeteer.launch({
    browser: 'firefox',
    executablePath,
    headless: true,
    extraPrefsFirefox: { 'media.autoplay.default': 0, 'media.autoplay.blocking_policy': 0 },
    protocolTimeout: 120_000,
  })
  const page = await browser.newPage()
  await page.setViewport({ width: 1280, height: 800 })
  return {
    version: await browser.version(),
    goto: async (url) => {
      await page.goto(url, { timeout: 60_000 })
    },
    evaluate: async <T>(expression: string) => (await page.evaluate(expression)) as T,
    clickAt: (x, y) => page.mouse.click(x, y),
    press: async (key, control = false) => {
      if (control) await page.keyboard.down('Control')
      await page.keyboard.press(key as 'Enter')
      if (control) await page.keyboard.up('Control')
    },
    close: () => browser.close(),
  }
}

/** WebDriver's names of keys that are no letters. */
const KEYS: Record<string, string> = {
  Enter: '\uE007',
  Tab: '\uE004',
  Escape: '\uE00C',
  ArrowDown: '\uE015',
  Home: '\uE011',
  Space: ' ',
}

/** WebKitGTK, by WebDriver over HTTP, with or without shared memory. */
export async function webkit(sharedMemory: boolean): Promise<Driver> {
  const display = sharedMemory ? ':78' : ':79'
  const port = sharedMemory ? 4781 : 4782
  const env = {
    ...process.env,
    DISPLAY: display,
    GDK_BACKEND: 'x11',
    LIBGL_ALWAYS_SOFTWARE: '1',
    WEBKIT_DISABLE_SANDBOX_THIS_IS_DANGEROUS: '1',
    NO_AT_BRIDGE: '1',
    JSC_useSharedArrayBuffer: sharedMemory ? '1' : '0',
  }
  const children: ChildProcess[] = [
    spawn('Xvfb', [display, '-screen', '0', '1400x900x24'], { stdio: 'ignore' }),
  ]
  const end = (): void => {
    for (const child of children) child.kill()
  }
  process.on('exit', end)
  await sleep(1500)
  children.push(spawn('WebKitWebDriver', [`--port=${port}`], { env, stdio: 'ignore' }))
  await sleep(1000)
  const ask = async <T>(method: string, path: string, body?: unknown): Promise<T> => {
    const response = await fetch(`http://127.0.0.1:${port}${path}`, {
      method,
      body: body === undefined ? undefined : JSON.stringify(body),
      headers: { 'content-type': 'application/json' },
    })
    const { value } = (await response.json()) as { value: T & { error?: string; message?: string } }
    if ((value as { error?: string } | null)?.error) throw new Error(value.message ?? value.error)
    return value
  }
  const binary = '/usr/lib/x86_64-linux-gnu/webkit2gtk-4.1/MiniBrowser'
  const { sessionId, capabilities } = await ask<{
    sessionId: string
    capabilities: { browserVersion: string }
  }>('POST', '/session', {
    capabilities: { alwaysMatch: { 'webkitgtk:browserOptions': { binary, args: ['--automation'] } } },
  })
  const at = `/session/${sessionId}`
  await ask('POST', `${at}/timeouts`, { script: 120_000, pageLoad: 60_000 })
  await ask('POST', `${at}/window/rect`, { width: 1280, height: 860 }).catch(() => {})
  const act = (actions: unknown): Promise<unknown> => ask('POST', `${at}/actions`, { actions })
  return {
    version: `WebKitGTK ${capabilities.browserVersion}${sharedMemory ? '' : ', without shared memory'}`,
    goto: async (url) => {
      await ask('POST', `${at}/url`, { url })
    },
    evaluate: async <T>(expression: string) => {
      const script = `const done = arguments[arguments.length - 1]; Promise.resolve().then(() => (${expression})).then((v) => done(JSON.stringify({ v })), (e) => done(JSON.stringify({ e: String(e) })))`
      const { v, e } = JSON.parse(await ask<string>('POST', `${at}/execute/async`, { script, args: [] })) as {
        v: T
        e?: string
      }
      if (e !== undefined) throw new Error(e)
      return v
    },
    clickAt: async (x, y) => {
      const pointer = [
        { type: 'pointerMove', duration: 0, x: Math.round(x), y: Math.round(y), origin: 'viewport' },
        { type: 'pointerDown', button: 0 },
        { type: 'pointerUp', button: 0 },
      ]
      await act([{ type: 'pointer', id: 'mouse', parameters: { pointerType: 'mouse' }, actions: pointer }])
    },
    press: async (key, control = false) => {
      const value = KEYS[key] ?? key
      const keys = [
        ...(control ? [{ type: 'keyDown', value: '\uE009' }] : []),
        { type: 'keyDown', value },
        { type: 'keyUp', value },
        ...(control ? [{ type: 'keyUp', value: '\uE009' }] : []),
      ]
      await act([{ type: 'key', id: 'keys', actions: keys }])
    },
    close: async () => {
      await ask('DELETE', at).catch(() => {})
      end()
    },
  }
}

export const sleep = (ms: number): Promise<void> => new Promise((resolve) => setTimeout(resolve, ms))
