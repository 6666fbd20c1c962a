-- A message that somebody edited and sent again: by whom, and which one it was.
ALTER TABLE messages ADD COLUMN edited_by text, ADD COLUMN edited_from uuid;
