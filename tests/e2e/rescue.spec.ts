import { expect, test } from './stack';

test('from what it shows to the smallest repair: bars, keys, an answer taken back, a plan, a case written down', async ({
  page,
  stack,
}) => {
  await page.goto(stack.url);
  await page.keyboard.press('!');
  await page.waitForURL(/\/rescue/);
  await page.getByRole('combobox', { name: 'Which handset' }).click();
  await page.locator('.ant-select-item').filter({ hasText: 'Ridge camera' }).click();
  await expect(page.getByRole('heading', { name: 'What is wrong with Ridge camera?' })).toBeVisible();
  const believed = page.getByRole('region', { name: 'What is believed' });
  const question = page.getByRole('region', { name: 'The next question' });
  const repair = page.getByRole('region', { name: 'The next repair' });
  await expect(believed).toHaveCount(0);

  await page.getByRole('button', { name: 'It starts, and root is gone' }).click();
  const first = believed.getByRole('button').first();
  await expect(first).toContainText('%');
  const before = await first.textContent();
  await first.click();
  await expect(believed.getByRole('table')).toContainText('of a hundred handsets in trouble');
  await expect(believed.getByRole('table')).toContainText('where it shows: It starts, and root is gone');
  const asked = await question.getByRole('heading').textContent();
  await page.keyboard.press('1');
  const known = page.getByRole('region', { name: 'What is known so far' });
  await expect(known).toContainText(asked!);
  await expect(first).not.toHaveText(before!);
  await known.getByRole('button', { name: 'Take it back' }).click();
  await expect(known).toHaveCount(0);
  await expect(first).toHaveText(before!);
  await page.keyboard.press('0');
  await expect(first).toHaveText(before!);

  // on to the repair: the slot is as it was, the app is there, and showing it changed nothing
  const again = repair.getByRole('heading', { name: 'Write root once more' });
  for (let i = 0; i < 12 && !(await again.isVisible()); i += 1) {
    const title = (await page.locator('main section h2').first().textContent())!;
    if (await repair.isVisible()) await repair.getByRole('button', { name: 'I did it: as before' }).click();
    else await page.keyboard.press(title.includes('of the slots') ? '3' : '1');
    await expect(known).toContainText(title);
  }
  await expect(again).toBeVisible({ timeout: 5000 });
  const plan = repair.getByRole('button', { name: 'Begin it as a round' });
  await expect(plan).toBeVisible();
  // the page is left, and the case is there again
  await expect(page.getByText('This case is kept as it stands.')).toBeVisible();
  await page.reload();
  await expect(again).toBeVisible();
  await expect(known.getByText('as before').first()).toBeVisible();
  await repair.getByRole('button', { name: 'I did it: it is back' }).click();
  const closed = page.getByRole('region', { name: 'The case is closed' });
  await expect(closed.getByRole('heading', { name: /^It is back/ })).toBeVisible();
  await closed.getByRole('button', { name: 'Go on with Ridge camera' }).click();
  await page.waitForURL(/\/handsets\//);

  // the next case weighs it
  await page.goBack();
  await page.getByRole('button', { name: 'It starts, and root is gone' }).click();
  await believed.getByRole('button').first().click();
  await expect(believed.getByRole('table')).toContainText('1 of your own closed cases');

  await page.getByRole('checkbox', { name: /swollen, hot or wet/ }).check();
  await expect(page.getByText('Stop here.')).toBeVisible();
  await expect(believed).toHaveCount(0);
});

test('a handset that was never here is rescued by its class, with an empty store', async ({
  page,
  emptyStack: stack,
}) => {
  await page.goto(`${stack.url}/rescue`);
  await page.getByRole('combobox', { name: 'Which handset' }).click();
  await page.locator('.ant-select-item').filter({ hasText: 'Two slots, root in boot' }).click();
  await page.getByRole('button', { name: 'Nothing at all on screen' }).click();
  await expect(page.getByRole('region', { name: 'The next question' })).toBeVisible();
  for (
    let i = 0;
    i < 12 && (await page.getByRole('region', { name: 'Nothing is left' }).count()) === 0;
    i += 1
  ) {
    const before = page.getByRole('button', { name: 'I did it: as before' }).first();
    if (await before.isVisible()) await before.click();
    else await page.keyboard.press('2');
    await page.waitForTimeout(200);
  }
  await expect(page.getByRole('region', { name: 'Nothing is left' })).toContainText('a repairer');
});

test('answers are read from the handset or out of what is pasted, and a line has its own ladder', async ({
  page,
  stack,
}) => {
  await page.goto(`${stack.url}/rescue`);
  await page.getByRole('combobox', { name: 'Which handset' }).click();
  await page.locator('.ant-select-item').filter({ hasText: 'Ridge camera' }).click();
  await page.getByRole('button', { name: 'It starts, and root is gone' }).click();
  await page.getByRole('button', { name: 'Read it from the handset' }).click();
  const known = page.getByRole('region', { name: 'What is known so far' });
  await expect(known).toContainText('read from the handset');
  await page.getByText('Paste what your tool printed').click();
  const paste = page.getByRole('textbox', { name: 'What your tool printed' });
  await paste.fill('good morning');
  await page.getByRole('button', { name: 'Take the answers in it' }).click();
  await expect(page.getByText('Nothing in it answers a question about what shows.')).toBeVisible();
  await paste.fill('su: permission denied');
  await page.getByRole('button', { name: 'Take the answers in it' }).click();
  await expect(known).toContainText('read in what you pasted: denied');

  await page.getByRole('button', { name: 'The computer does not list it' }).click();
  const ladder = page.getByRole('region', { name: 'The line’s own ladder' });
  const rung = await ladder.getByRole('heading').textContent();
  await page.keyboard.press('2');
  await expect(known).toContainText(`${rung}: still not listed`);
  await ladder.getByRole('combobox', { name: 'Which cable' }).fill('the red one');
  const second = (await ladder.getByRole('heading').textContent())!;
  await ladder.getByRole('heading').click();
  await page.keyboard.press('1');
  const closed = page.getByRole('region', { name: 'The case is closed' });
  await expect(closed).toContainText(second);

  // the key said all that was known by then: the cable is there the next time
  await page.reload();
  await page.getByRole('button', { name: 'The computer does not list it' }).click();
  await ladder.getByRole('combobox', { name: 'Which cable' }).click();
  await expect(page.locator('.ant-select-item').filter({ hasText: 'the red one' })).toBeVisible();
});
