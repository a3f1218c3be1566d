"""What the drawings share: axis, whisker, words in a row, the lamp."""
