-- 008 was delivered in two forms. This makes both the same, whichever a database went through.

-- How far changes were learnt stays, as images do, while a system is taken out.
ALTER TABLE listening DROP CONSTRAINT IF EXISTS listening_system_fkey;

-- The system that was taken out, to which a draft is the way back.
ALTER TABLE connection_drafts ADD COLUMN IF NOT EXISTS way_back text;

-- What stands for a record takes a number. What is not known is found out with the next look.
ALTER TABLE images ALTER COLUMN digest TYPE bigint USING NULL;
