"""Sheet metal: bends read out of bare solids, flat patterns, and the proof of them by folding back."""
