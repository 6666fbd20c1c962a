-- Messages that are files: where each goes, and what it is called; null for all others. Those to be taken by hand wait for nobody.
ALTER TABLE messages ADD COLUMN way text CHECK (way IN ('address', 'folder', 'download'));
ALTER TABLE messages ADD COLUMN file text;
