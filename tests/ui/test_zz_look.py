from PyQt6.QtCore import Qt
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QApplication
from helpers.hands import press
K=Qt.Key; CTRL=Qt.KeyboardModifier.ControlModifier
def t(w,s,then=None):
    QTest.keyClicks(QApplication.focusWidget() or w, s)
    if then: QTest.keyClick(QApplication.focusWidget() or w, then)
    QApplication.processEvents()
def grab(w, name):
    QApplication.processEvents()
    w.grab().save(f'/tmp/shots/{name}.png')
def test_look(open_window, wait_for):
    w = open_window(size=(1280,800))
    press(w,K.Key_N,CTRL); t(w,"My first", K.Key_Return)
    press(w,K.Key_F3)
    for pad,comp in (("Sallow","Grist cut"),("Osier","Silt fine")):
        press(w,K.Key_N,CTRL)
        t(w,pad,K.Key_Return)
        if pad=="Sallow": wait_for(w); grab(w,'f_ask')
        press(w,K.Key_Return)
        t(w,comp,K.Key_Tab); t(w,"Mill",K.Key_Return)
        if QApplication.focusWidget().objectName()=='chip': press(w,K.Key_Return)
        t(w,"6",K.Key_Return)
    wait_for(w); grab(w,'f_kit')
    press(w,K.Key_F4); press(w,K.Key_N,CTRL); wait_for(w); grab(w,'f_panels')
    press(w,K.Key_F5); press(w,K.Key_R,CTRL); wait_for(w); grab(w,'f_layout')
    press(w,K.Key_F6); wait_for(w); grab(w,'f_gate')
    press(w,K.Key_Return); wait_for(w); grab(w,'f_who')
