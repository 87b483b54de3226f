"""Aqueous liquids by correlations of their own: water, brines, alcohols and glycols with water."""
