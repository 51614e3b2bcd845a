"""What a mix is: its statement, its schools, its admixtures and the tests of its heaps.

It knows no load: how it is dosed is asked further up.
"""
