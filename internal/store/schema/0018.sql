-- The words that stand in the indexes, each as often as it stands there: so the next word is
-- found without counting how many texts have the one before it.
DROP TABLE spelled;

CREATE VIRTUAL TABLE spelled USING fts5vocab(words, instance);

DROP TABLE document_spelled;

CREATE VIRTUAL TABLE document_spelled USING fts5vocab(document_words, instance);
