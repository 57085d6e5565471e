-- Invitations that nobody took go, a while after they have run out.
grant delete on invitation to sorta_app;
