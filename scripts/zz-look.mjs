import { chromium as findChromium } from './machine/debian.mjs';
import { removeData } from './machine/postgres.mjs';
import { startStack } from './machine/stack.mjs';
import { chromium } from 'playwright-core';
removeData('look');
const stack = await startStack({ name: 'look', extra: { LOG_LEVEL: 'fatal' } });
const browser = await chromium.launch({ executablePath: await findChromium(), args: ['--no-sandbox','--disable-gpu','--disable-quic','--no-first-run','--disable-background-networking','--disable-component-update','--disable-sync'] });
const ask = async (key, method, path, body, headers) => { const c = stack.connections[key]; const r = await fetch(c.baseUrl+path,{method,headers:{'content-type':'application/json',...headers(c.token)},...(body&&{body:JSON.stringify(body)})}); return r.text(); };
const fd = (t)=>({'x-desk-key':t}); const cb=(t)=>({authorization:`Bearer ${t}`});
const pause = (ms)=>new Promise(d=>setTimeout(d,ms));
try {
  const page = await browser.newPage({ viewport: { width: 1280, height: 800 } });
  await page.goto(stack.url);
  await page.getByRole('textbox', { name: 'Name' }).fill(stack.user);
  await page.locator('input[type=password]').fill(stack.password);
  await page.getByRole('button', { name: 'Sign in' }).click();
  await page.getByRole('link', { name: 'Bench' }).waitFor();
  // a run that fails, then a newer one
  await ask('freight-desk','PUT','/dials',{errorRate:1},fd);
  await ask('customer-book','PATCH','/api/companies/C-1001',{phone:'01632 960 201'},cb);
  await pause(800);
  for (let i=0;i<5;i++){ await ask('customer-book','PATCH','/api/companies/C-100'+(2+i),{phone:'01632 960 30'+i},cb); await pause(300);}
  await pause(2500);
  await page.goto(stack.url+'/systems/freight-desk'); await pause(1500);
  await page.screenshot({ path: '/tmp/look/away.png' });
  await page.goto(stack.url+'/runs?state=waiting'); await pause(1200);
  await page.screenshot({ path: '/tmp/look/waiting.png' });
  await page.locator('a.row, [role=row] a, .run-row').first().click().catch(()=>{}); await pause(1000);
  await page.screenshot({ path: '/tmp/look/waitingRun.png' });
  await ask('freight-desk','PUT','/dials',{errorRate:0},fd);
  await pause(9000);
  await page.goto(stack.url+'/systems/freight-desk'); await pause(1500);
  await page.screenshot({ path: '/tmp/look/back.png' });
  await page.evaluate(()=>localStorage.setItem('mantine-color-scheme-value','dark'));
  await page.goto(stack.url+'/runs'); await pause(1500);
  await page.screenshot({ path: '/tmp/look/runs.png' });
} finally { await browser.close(); await stack.stop(); }
