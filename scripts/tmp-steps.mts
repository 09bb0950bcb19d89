export default async (page: any, url: string, shot: (n: string) => Promise<void>) => {
  await page.goto(`${url}label/anchors`);
  await page.waitForTimeout(3000); await shot('anchors-0'); await page.getByRole('grid', { name: 'Anchors to decide on' }).waitFor({timeout:8000});
  await page.keyboard.press('ArrowDown');
  await page.waitForTimeout(1200);
  await shot('anchors');
  await page.keyboard.press('ArrowRight');
  await page.keyboard.press('Control+ArrowRight');
  await page.waitForTimeout(800);
  await shot('anchors-2');
  await page.keyboard.press('Enter');
  await page.waitForTimeout(800);
  await shot('anchors-3');
};
