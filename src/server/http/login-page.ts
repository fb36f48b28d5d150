/** The page that asks for the password. It stands alone: nothing else is answered before. */
export function loginPage(message = ''): string {
  return `<!doctype html>
<html lang="en">
<meta charset="utf-8" />
<meta name="viewport" content="width=device-width, initial-scale=1" />
<title>Tersum · Log in</title>
<style>
  body { margin: 0; min-height: 100vh; display: grid; place-items: center; background: #f7f6f2; color: #1d1e1c; font: 15px/1.5 'Schibsted Grotesk Variable', system-ui, sans-serif; }
  form { width: 20rem; display: grid; gap: 14px; padding: 28px 30px 30px; background: #fff; border: 1px solid #d8d4ca; }
  h1 { margin: 0; font-size: 22px; }
  label { display: grid; gap: 5px; font-size: 13px; }
  input { font: inherit; padding: 8px 10px; border: 1px solid #8b877d; border-radius: 3px; }
  button { font: inherit; font-weight: 600; padding: 9px; border: 0; border-radius: 3px; color: #fff; background: #0b6e69; cursor: pointer; }
  input:focus-visible, button:focus-visible { outline: 2px solid #0b6e69; outline-offset: 2px; }
  p { margin: 0; color: #9a5b00; }
</style>
<form method="post" action="/login">
  <h1>Tersum</h1>
  <label>Password <input name="password" type="password" autocomplete="current-password" required autofocus /></label>
  ${message && `<p role="alert">${message}</p>`}
  <button>Log in</button>
</form>
</html>
`;
}
