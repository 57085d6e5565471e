-- How a member wants the screen: light, dark or as the device has it; the size of its text; how much of a row is shown; the strip of what is due.
alter table member
  add column theme text not null default 'device' check (theme in ('device', 'light', 'dark')),
  add column text_size integer not null default 100 check (text_size in (90, 100, 115, 130, 150)),
  add column density text not null default 'full' check (density in ('full', 'compact')),
  add column strip text not null default 'open' check (strip in ('open', 'folded'));
