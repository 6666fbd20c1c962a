-- With what personal values of samples are masked, sealed. It stays, so that what is read for a masked sample later becomes the same.
ALTER TABLE installation ADD COLUMN mask_key bytea;
