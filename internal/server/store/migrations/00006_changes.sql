-- +goose Up
-- What a survey changed: findings that were not there before, and those that are there no more.
ALTER TABLE surveys ADD COLUMN opened INTEGER NOT NULL DEFAULT 0;
ALTER TABLE surveys ADD COLUMN closed INTEGER NOT NULL DEFAULT 0;
