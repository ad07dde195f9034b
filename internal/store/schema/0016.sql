-- The words that stand in the indexes, each once: what is common is asked for by its words,
-- which can be read one after another, rather than by how they begin.
CREATE VIRTUAL TABLE spelled USING fts5vocab(words, row);

CREATE VIRTUAL TABLE document_spelled USING fts5vocab(document_words, row);
