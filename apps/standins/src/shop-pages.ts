/** Pages of the shop, as HTML. */

export interface Offer {
  readonly name: string;
  readonly wishes: readonly {
    readonly name: string;
    readonly label: string;
    readonly kind: 'number' | 'choice' | 'text' | 'yes/no';
    readonly unit: string;
    readonly least: number | null;
    readonly most: number | null;
    readonly choices: readonly string[];
    /** Taken where nothing is wished. */
    readonly otherwise: string;
  }[];
}

export interface Order {
  readonly for: string;
  readonly wishes: Readonly<Record<string, string>>;
  readonly state: 'waiting' | 'made' | 'known' | 'failed';
  readonly says: string;
  readonly variant: string | null;
  readonly dangling: number | null;
  readonly leaking: number | null;
}

export function shopPage({ name, wishes }: Offer): string {
  const fields = wishes.map((wish) => {
    const unit = wish.unit === '' ? '' : ` in ${wish.unit}`;
    const range = wish.least === null || wish.most === null ? '' : `, from ${wish.least} to ${wish.most}`;
    return `<label>${escaped(wish.label + unit + range)} ${fieldOf(wish)}</label>`;
  });
  return page(
    `Shop: ${name}`,
    `<form method="post" action="/orders"><label>Your name <input name="customer" autocomplete="off"></label>${fields.join('')}<button>Order</button></form>`,
  );
}

function fieldOf(wish: Offer['wishes'][number]): string {
  const { name, kind, otherwise: usual } = wish;
  const choices = kind === 'yes/no' ? ['yes', 'no'] : kind === 'choice' ? wish.choices : [];
  const attribute = `name="wish ${escaped(name)}"`;
  if (choices.length === 0) return `<input ${attribute} value="${escaped(usual)}" autocomplete="off">`;
  const options = choices.map(
    (choice) => `<option${choice === usual ? ' selected' : ''}>${escaped(choice)}</option>`,
  );
  return `<select ${attribute}>${options.join('')}</select>`;
}

/** @param store address of Stem Trace, where the variant is looked at */
export function orderPage(order: Order, store: string): string {
  const { state, variant, says, dangling, leaking } = order;
  const isOpen = state === 'waiting' || (state === 'made' && dangling === null);
  const told = {
    waiting: '<p>Your station is being made …</p>',
    failed: `<p role="alert">It could not be made: ${escaped(says)}</p>`,
    known: `<p>There is one like this already: ${escaped(variant ?? '')}.</p>`,
    made: `<p>It is made: <a href="${escaped(`${store}/trace?item=${encodeURIComponent(variant ?? '')}`)}">${escaped(variant ?? '')}</a>.</p>`,
  }[state];
  const proof =
    dangling === null || leaking === null
      ? ''
      : `<p>${dangling + leaking === 0 ? 'Its files hold together.' : 'Its files need to be looked at.'}</p>`;
  const wishes = Object.entries(order.wishes).map(
    ([name, value]) => `<tr><th>${escaped(name)}</th><td>${escaped(value)}</td></tr>`,
  );
  return page(
    `Order for ${order.for}`,
    `${told}${proof}<table>${wishes.join('')}</table><p><a href="/">Another one</a></p>`,
    isOpen ? '<meta http-equiv="refresh" content="1">' : '',
  );
}

function page(title: string, body: string, head = ''): string {
  return `<!doctype html><html lang="en"><head><meta charset="utf-8">${head}<title>${escaped(title)}</title><style>body{font-family:sans-serif;margin:2rem;max-width:32rem}form{display:grid;gap:1rem}label{display:grid;gap:.25rem}input,select,button{font:inherit;padding:.25rem}th{text-align:left;padding-right:1rem}</style></head><body><main><h1>${escaped(title)}</h1>${body}</main></body></html>`;
}

const ESCAPES: Readonly<Record<string, string>> = {
  '&': '&amp;',
  '<': '&lt;',
  '>': '&gt;',
  '"': '&quot;',
  "'": '&#39;',
};

function escaped(text: string): string {
  return text.replace(/[&<>"']/g, (character) => ESCAPES[character] ?? character);
}
