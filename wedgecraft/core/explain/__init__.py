"""Where every figure comes from, the ledger of limits, reasons, cautions, the state of each
step.
"""
