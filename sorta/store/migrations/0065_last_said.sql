-- When the last thing was said in a conversation is when it stood outside, as its message has it, also for answers of ours; and the number of
-- their last message is that of its arrival, whatever else came with it. Kept so from now on; here for what is there already.
alter table conversation no force row level security;
alter table message no force row level security;
alter table trail no force row level security;
update conversation c set last_at = s.at
from (select conversation_id, max(sent_at) as at from message group by conversation_id) s
where s.conversation_id = c.id and s.at <> c.last_at;
update conversation c set last_inbound_seq = s.seq
from (select conversation_id, max(seq) as seq from trail where kind = 'arrived' group by conversation_id) s
where s.conversation_id = c.id and s.seq <> c.last_inbound_seq;
alter table trail force row level security;
alter table message force row level security;
alter table conversation force row level security;
