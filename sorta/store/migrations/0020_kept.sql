-- The letters that an answer goes on from, nearest first, so that asking again carries the whole chain (RFC 5322, 3.6.4).
alter table advice_answer add answers text[] not null default '{}';
-- The account that was chosen to answer, kept with the words; null is the one that was spoken to.
alter table draft add account_id bigint references account;
