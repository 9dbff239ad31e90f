"""Programs as people read and change them: blocks in sentences, sentences as blocks, and edits of both."""
