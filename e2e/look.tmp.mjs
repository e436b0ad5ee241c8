import puppeteer from 'puppeteer-core';
import { cpSync, mkdtempSync, existsSync } from 'node:fs';
import { join } from 'node:path';
const root = new URL('..', import.meta.url).pathname;
process.env.NODE_ENV='production';
const { start } = await import(join(root,'packages/server/dist/start.js'));
const { readConfig } = await import(join(root,'packages/server/dist/platform/process/config.js'));
export async function stage(){
  const f=mkdtempSync('/tmp/zest-bell-look-'); if (existsSync(join(root,'artifacts/demo-played'))) cpSync(join(root,'artifacts/demo-played'),f,{recursive:true});
  const app=await start(readConfig({...process.env,ZEST_DATA:f,ZEST_PORT:'0',ZEST_LOG:'silent',ZEST_DEMO:'on'},root),()=>{});
  const b=await puppeteer.launch({executablePath:'/usr/bin/chromium-headless-shell',headless:'shell',pipe:true,args:['--no-sandbox','--disable-gpu','--force-color-profile=srgb','--lang=en-US','--force-prefers-reduced-motion'],defaultViewport:{width:1280,height:800}});
  const page=await b.newPage();
  await page.evaluateOnNewDocument(()=>{ if(window.top===window) localStorage.setItem('zest-bell-tour','over')});
  await page.goto(app.base+'/');
  await page.evaluate(async()=>{await fetch('/api/v1/session/demo',{method:'POST'})});
  const api=(m,p,body,type='application/json')=>page.evaluate(async(m,p,body,type)=>{const r=await fetch('/api/v1'+p,{method:m,headers:{'content-type':type},body:body==null?undefined:type==='application/json'?JSON.stringify(body):body});const t=await r.text();try{return [r.status,JSON.parse(t)]}catch{return [r.status,t]}},m,p,body,type);
  const go=async(p,wait=900)=>{await page.goto(app.base+p,{waitUntil:'networkidle0'});await new Promise(r=>setTimeout(r,wait))};
  const click=(text,sel='button,a')=>page.evaluate((text,sel)=>{const e=[...document.querySelectorAll(sel)].find(e=>e.textContent.trim()===text)??[...document.querySelectorAll(sel)].find(e=>e.textContent.includes(text));if(!e)throw new Error('no '+text);e.click()},text,sel);
  const text=(sel='main')=>page.$eval(sel,e=>e.innerText);
  const shot=(n)=>page.screenshot({path:`/tmp/shots/${n}.png`});
  const wait=(ms)=>new Promise(r=>setTimeout(r,ms));
  return {app,page,api,go,click,text,shot,wait,end:async()=>{await b.close();await app.stop();process.exit()}};
}
