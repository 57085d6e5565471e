'use strict'
// The Outside's page: shows one network's threads and lets a person speak as a customer.

const $ = (selector) => document.querySelector(selector)
const DESK = 'desk'
let network = location.hash.slice(1) || 'commonfold'
let answering = null
let last = ''
const KINDS = { comment: 'Comment under a post', reply: 'Reply', mention: 'Mention', visitor_post: 'Post on their page', private: 'Private message', story_mention: 'Mention in a story', review: 'Review', form_entry: 'Form entry', talk: 'Say it to nobody in particular' }
const MISCHIEF = {
  slow_ms: 'Answer slowly (ms)', fail: 'Break: next n requests', limit: 'Too many: next n', retry_after: '… come back after (s)',
  lose: 'Take it, lose the answer: next n', refuse: 'Refuse for good: next n', drop: 'Lose webhooks: next n',
  duplicate: 'Send webhooks twice', reorder: 'Mix webhooks up',
}

async function call(path, body) {
  const answer = await fetch(path, body === undefined ? {} : { method: 'POST', headers: { 'Content-Type': 'application/json' }, body: JSON.stringify(body) })
  const told = await answer.json()
  if (!answer.ok) throw new Error(told.detail || answer.statusText)
  return told
}
function make(tag, props = {}, ...children) {
  const element = Object.assign(document.createElement(tag), props)
  element.append(...children)
  return element
}
function say(where, words, isWrong = false) {
  $(where).textContent = words
  $(where).className = isWrong ? 'wrong' : ''
}
let actors = []
const handleOf = (name) => actors.find((a) => !a.page && a.name === name)?.handle ?? name.trim().toLowerCase().replace(/[^\p{L}\p{N}]+/gu, '.')
const isPrivate = (thing) => !thing.to.includes('https://www.w3.org/ns/activitystreams#Public')

function showThing(thing, pages) {
  const isUs = pages.has(thing.attributedTo.id)
  const line = make('div', { className: `thing${isUs ? ' us' : ''}` })
  line.dataset.thing = thing.id
  const how = [isPrivate(thing) ? 'private' : '', thing.reviewRating ? `${thing.reviewRating} of 5 stars` : '', thing.likedByPage ? 'liked by the page' : '', thing.hidden ? 'hidden by the page' : '', thing.reposted ? 'reposted by the page' : '', thing.updated ? 'edited' : '', new Date(thing.published).toLocaleString('en-GB')]
  line.append(make('b', {}, thing.attributedTo.name), ' ', make('span', { className: 'about' }, how.filter(Boolean).join(', ')))
  line.append(make('p', { className: thing.deleted ? 'gone' : '' }, thing.content))
  for (const file of thing.attachment ?? []) line.append(make('p', {}, file.type === 'Image' ? make('img', { src: file.url, alt: file.summary ?? file.name, title: file.summary ?? '', className: 'sent' }) : make('a', { href: file.url }, file.name)))
  if (thing.deleted) return line
  const answer = make('button', { type: 'button', onclick: () => choose(thing) }, 'Answer')
  line.append(answer)
  if (!isUs) {
    const edit = async () => {
      const text = prompt('New words', thing.content)
      if (text) await call('/control/edit', { id: thing.id, text }).then(refresh)
    }
    line.append(make('button', { type: 'button', onclick: edit }, 'Edit'))
    line.append(make('button', { type: 'button', onclick: () => call('/control/remove', { id: thing.id }).then(refresh) }, 'Delete'))
  } else {
    const like = () => call('/control/like', { network, id: thing.id, handle: handleOf($('[name=name]').value), name: $('[name=name]').value }).then(() => say('#said', 'Liked.'))
    line.append(make('button', { type: 'button', onclick: like }, 'Like'))
  }
  return line
}
function choose(thing) {
  answering = thing
  $('#answering').hidden = !thing
  if (!thing) return
  $('#answering q').textContent = thing.content.slice(0, 60)
  const kind = $('[name=kind]')
  kind.value = isPrivate(thing) ? 'private' : thing.context || !thing.name ? 'reply' : 'comment'
  $('[name=text]').focus()
}

function showNetworks(networks) {
  $('#networks').replaceChildren(...[...networks, { key: DESK, name: 'Ticket office' }].map((n) => {
    const button = make('button', { type: 'button', onclick: () => { network = n.key; location.hash = n.key; last = ''; choose(null); refresh() } }, n.name)
    if (n.key === network) button.setAttribute('aria-current', 'page')
    return button
  }))
  document.body.classList.toggle('at-desk', network === DESK)
}
// The support desk: what was handed over, its state, and what somebody there says about it.
async function refreshDesk() {
  const [desk, { networks }] = await Promise.all([call('/control/desk'), call('/control/state/commonfold')])
  const text = JSON.stringify(desk)
  if (text === last || $('#threads').contains(document.activeElement)) return
  last = text
  showNetworks(networks)
  $('#network-name').textContent = 'at the ticket office'
  if (!$('#mischief').contains(document.activeElement)) showMischief(desk.mischief)
  $('#threads').replaceChildren(...desk.cases.map((c) => showCase(c, desk.states)))
}
function showCase(handed, states) {
  const card = make('article', { className: 'post' })
  card.dataset.case = handed.id
  card.append(make('b', {}, `${handed.reference} ${handed.customer.name || ''}`), make('p', { className: 'about' }, `${handed.state}, from ${handed.by}${handed.note ? `: ${handed.note}` : ''}`))
  card.append(...handed.messages.map((m) => make('div', { className: `thing${m.ours ? ' us' : ''}` }, make('b', {}, m.by), make('p', {}, m.text))))
  card.append(...handed.remarks.map((r) => make('div', { className: 'thing' }, make('b', {}, `${r.by} (remark)`), make('p', {}, r.text))))
  const form = make('form', { className: 'stand' })
  const state = make('select', { name: 'state' }, ...states.map((s) => make('option', { value: s, selected: s === handed.state }, s)))
  state.setAttribute('aria-label', 'State')
  const remark = make('input', { name: 'remark', placeholder: 'A remark for the desk that handed it over' })
  remark.setAttribute('aria-label', 'Remark')
  form.append(state, remark, make('button', { type: 'submit' }, 'Tell them'))
  form.onsubmit = async (event) => {
    event.preventDefault()
    await call(`/control/cases/${handed.id}`, { state: state.value, remark: remark.value })
    document.activeElement.blur()
    await refresh()
  }
  card.append(form)
  return card
}

async function refresh() {
  if (network === DESK) return refreshDesk()
  const state = await call(`/control/state/${network}`)
  const text = JSON.stringify(state)
  if (text === last) return
  last = text
  actors = state.actors
  const pages = new Map(state.actors.filter((a) => a.page).map((a) => [a.id, a]))
  showNetworks(state.networks)
  const here = state.networks.find((n) => n.key === network)
  $('#network-name').textContent = `on ${here.name}`
  const fill = (select, options) => {
    const before = select.value
    select.replaceChildren(...options.map(([value, words]) => make('option', { value }, words)))
    if (options.some(([value]) => value === before)) select.value = before
  }
  fill($('[name=page]'), [...pages.values()].map((p) => [p.handle, p.name]))
  $('#rating').hidden = !here.kinds.includes('review')
  fill($('[name=kind]'), here.kinds.map((k) => [k, KINDS[k]]))
  $('#people').replaceChildren(...state.actors.filter((a) => !a.page).slice(0, 200).map((a) => make('option', { value: a.name })))
  $('#paces').replaceChildren(...state.paces.map((p) => {
    const button = make('button', { type: 'button', onclick: () => call('/control/settings', { pace: p }).then(refresh) }, p)
    button.setAttribute('aria-pressed', String(p === state.pace))
    return button
  }))
  if (!$('#mischief').contains(document.activeElement)) showMischief(state.mischief)
  showThreads(state.things, pages)
}
function showMischief(now) {
  $('#mischief').replaceChildren(...Object.entries(MISCHIEF).flatMap(([key, words]) => {
    const isSwitch = typeof now[key] === 'boolean'
    const input = make('input', isSwitch ? { type: 'checkbox', checked: now[key], id: key } : { type: 'number', min: 0, value: now[key], id: key })
    input.onchange = () => call(`/control/mischief/${network}`, { [key]: isSwitch ? input.checked : Number(input.value) }).catch((e) => alert(e.message))
    return [make('label', { htmlFor: key }, words), input]
  }))
}
function showThreads(things, pages) {
  const byRoot = new Map()
  for (const thing of [...things].reverse()) {
    const root = isPrivate(thing) ? `private ${pages.has(thing.attributedTo.id) ? thing.to[0].id : thing.attributedTo.id}` : (thing.context?.id ?? thing.id)
    byRoot.set(root, [...(byRoot.get(root) ?? []), thing])
  }
  const threads = [...byRoot.values()].sort((a, b) => b.at(-1).published.localeCompare(a.at(-1).published)).slice(0, 40)
  $('#threads').replaceChildren(...threads.map((list) => {
    const post = make('article', { className: 'post' })
    const [first, ...rest] = list
    const isPost = pages.has(first.attributedTo.id) && !isPrivate(first)
    if (isPost) {
      post.append(make('b', {}, first.name || first.content), make('p', {}, first.name ? first.content : ''))
      post.append(make('p', { className: 'about' }, make('button', { type: 'button', onclick: () => choose(first) }, 'Comment'), `${pages.get(first.attributedTo.id).name}, ${new Date(first.published).toLocaleString('en-GB')}`))
    }
    post.append(...(isPost ? rest : list).slice(-14).map((thing) => showThing(thing, pages)))
    return post
  }))
}

$('#say').onsubmit = async (event) => {
  event.preventDefault()
  const form = new FormData(event.target)
  const body = { network, handle: handleOf(form.get('name')), name: form.get('name'), kind: form.get('kind'), page: form.get('page'), text: form.get('text') }
  if (answering) body.parent = answering.id
  if (body.kind === 'private' || body.kind === 'form_entry') body.to = body.page
  if (body.kind === 'review') body.rating = Number(form.get('rating')) || 3
  try {
    await call('/control/say', body)
    event.target.elements.text.value = ''
    choose(null)
    say('#said', 'Said.')
    await refresh()
  } catch (error) {
    say('#said', error.message, true)
  }
}
$('#answering button').onclick = () => choose(null)
$('#expire').onclick = async () => {
  const { token } = await call('/control/expire', { network, page: $('[name=page]').value })
  say('#token', `The new token: ${token}`)
}
let letters = ''
async function refreshMail() {
  const list = await call('/control/mail')
  if (JSON.stringify(list) === letters || $('#mail').contains(document.activeElement)) return
  letters = JSON.stringify(list)
  $('#mail').replaceChildren(...list.map(showLetter))
}
function showLetter(m) {
  const letter = make('li', { className: 'letter' }, make('b', {}, m.subject), make('span', { className: 'about' }, `from ${m.from} to ${m.to}, ${m.date}`), make('p', {}, m.text))
  letter.dataset.letter = m.id
  // Only what somebody asks can be answered: it says where to.
  if (!m.reply_to) return letter
  const form = make('form', { className: 'answer' })
  const text = make('textarea', { name: 'text', rows: 3, required: true, placeholder: `Answer as ${m.to_name || m.to}` })
  text.setAttribute('aria-label', 'Answer')
  const told = make('p', { role: 'status' })
  const send = async (away) => {
    try {
      await call('/control/mail/answer', { id: m.id, text: text.value || 'I am away until Monday.', away })
      letters = ''
      document.activeElement.blur()
      await refreshMail()
    } catch (error) {
      Object.assign(told, { textContent: error.message, className: 'wrong' })
    }
  }
  form.onsubmit = (event) => { event.preventDefault(); return send(false) }
  form.append(text, make('button', { type: 'submit' }, 'Answer'), make('button', { type: 'button', onclick: () => send(true) }, 'Be away'), told)
  letter.append(form)
  return letter
}
refresh()
refreshMail()
setInterval(refresh, 1500)
setInterval(refreshMail, 3000)
