package lead

// Praise are the product's own lines of encouragement, where a house has none of its own: they say what to do, not how good it is.
func Praise() []string {
	return []string{"Last three, stay long.", "Nearly there, keep the size.", "Two more like the first.", "Breathe, and stay with it.", "Finish it as you began."}
}
